#!/bin/bash
# Kate on a screen in memory against "bradawl lsp": findings arrive, a UUID is completed by keys, the saved file has it.
# Needs kate, dbus, Xvfb, xdotool, jq; with PICTURE=FILE imagemagick too.
# usage: lab/try-kate.sh [PROGRAM]
set -u
cd "$(dirname "$0")/.."
program=$(realpath "${1:-target/release/bradawl}") record=$(realpath demo/archive.json)
work=$(mktemp -d); trap 'kill $(jobs -p) 2>/dev/null; wait; rm -rf "$work"' EXIT
mkdir -p "$work"/{cfg/kate/lspclient,data/kate,cache,run}; chmod 700 "$work/run"
printf 'UUID=0 / ext4 defaults 0 1\ntmpfs /srv/fresh tmpfs size=8M,noatme 0 0\n' >"$work/fstab"
# Both directions are kept; the editor sees the server alone.
printf '#!/bin/bash\ntee "%s/in" | "%s" lsp --host "%s" | tee "%s/out"\n' "$work" "$program" "$record" "$work" >"$work/server"
chmod +x "$work/server"
# The settings of the guide, and the answer to the editor's question whether this server may run.
printf '{ "servers": { "fstab": { "command": ["%s"], "highlightingModeRegex": "^fstab$" } } }' "$work/server" >"$work/cfg/kate/lspclient/settings.json"
printf '[Kate Plugins]\nlspclientplugin=true\n' >"$work/data/kate/anonymous.katesession"
printf '[lspclient]\nAllowedServerCommandLines=%s\n' "$work/server" >"$work/cfg/katerc"
export DISPLAY=:97 XDG_CONFIG_HOME=$work/cfg XDG_DATA_HOME=$work/data XDG_CACHE_HOME=$work/cache XDG_RUNTIME_DIR=$work/run HOME=$work
Xvfb $DISPLAY -screen 0 1280x800x24 >/dev/null 2>&1 &
until xdotool getdisplaygeometry >/dev/null 2>&1; do sleep 0.2; done
timeout 240 dbus-run-session kate --startanon "$work/fstab" >/dev/null 2>&1 &
said() { for _ in $(seq 60); do grep -aq "$1" "$work/out" 2>/dev/null && return 0; sleep 1; done; return 1; }
check() { if "${@:2}"; then echo "ok    $1"; else echo "FAILS $1"; fails=1; fi; }
fails=0
check "findings come" said '"code":"option-unknown"'
window=$(xdotool search --onlyvisible --name 'fstab' | tail -1)
xdotool windowsize --sync "$window" 1280 760 windowfocus "$window"
sleep 3
# The name that no device has is typed anew, and the first UUID offered is taken. Kate 22.12 passes over the place that an
# answer names: it is asked before the "=", where its own idea of a word ends.
xdotool key --window "$window" ctrl+Home
for _ in 1 2 3 4 5 6; do xdotool key --window "$window" Delete; done
xdotool type --window "$window" --delay 150 'UUID'
xdotool key --window "$window" ctrl+space
sleep 4
[ -z "${PICTURE:-}" ] || import -window root "$PICTURE"
xdotool key --window "$window" Return; sleep 1
xdotool key --window "$window" ctrl+s; sleep 2
head -1 "$work/fstab"
completed() { head -1 "$work/fstab" | grep -qE '^UUID=[0-9a-f-]{36} / ext4 defaults 0 1$'; }
check "a UUID is completed and saved" completed
check "what was typed is judged again" test "$(grep -ao 'publishDiagnostics' "$work/out" | wc -l)" -ge 2
exit $fails
