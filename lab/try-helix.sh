#!/bin/bash
# Helix in a terminal against "bradawl lsp", set up as the guide says: a UUID completed, a repair taken, both saved.
# Needs helix (hx), tmux. usage: lab/try-helix.sh [PROGRAM]
set -u
cd "$(dirname "$0")/.."
program=$(realpath "${1:-target/release/bradawl}") record=$(realpath demo/archive.json)
work=$(mktemp -d); trap 'tmux -L helix kill-server 2>/dev/null; rm -rf "$work"' EXIT
mkdir -p "$work/helix"
# The guide's own text, with a record's facts in place of this host's.
sed -n '/^## Helix/,/^## Emacs/s/^    //p' docs/guide/editors.md |
    sed "s|command = \"bradawl\"|command = \"$program\"|; s|args = \[\"lsp\"\]|args = [\"lsp\", \"--host\", \"$record\"]|" >"$work/helix/languages.toml"
printf 'UUID=0 / ext4 defaults 0 1\ntmpfs /srv/fresh tmpfs size=8M,noatme 0 0\n' >"$work/fstab"
keys() { tmux -L helix send-keys "$@"; sleep 0.7; }
# Waits until the screen says so.
shows() { for _ in $(seq 40); do tmux -L helix capture-pane -p | grep -q "$1" && return 0; sleep 0.5; done; return 1; }
check() { if "${@:2}"; then echo "ok    $1"; else echo "FAILS $1"; tmux -L helix capture-pane -p; fails=1; fi; }
fails=0
tmux -L helix -f /dev/null new-session -d -x 120 -y 30 "XDG_CONFIG_HOME=$work XDG_CACHE_HOME=$work HOME=$work hx $work/fstab"
shows 'tmpfs /srv/fresh'
sleep 3
keys Space d
check "findings come" shows noatme
keys Escape
keys g g; keys d; keys d; keys d; keys d; keys d; keys d
keys i; keys -l 'UUID='
check "UUIDs are offered" shows 'UUID=0e6d4b97'
keys Tab; keys Enter; keys Escape; keys ':w' Enter
keys 2 g g; keys f n
keys Space a
check "the repair is offered" shows 'noatime'
keys Enter; keys ':wq' Enter
cat "$work/fstab"
check "a UUID is completed and saved" grep -qE '^UUID=[0-9a-f-]{36} / ext4' "$work/fstab"
check "the repair is written" grep -q 'size=8M,noatime 0 0' "$work/fstab"
exit $fails
