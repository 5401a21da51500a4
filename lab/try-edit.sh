#!/bin/bash
# "bradawl edit" on a real terminal with real editors, keys sent by tmux: a typo, the refusal, the repair, the write; left,
# killed at the prompt and in the editor, two at once. Needs tmux, vim-tiny, nano. usage: lab/try-edit.sh [PROGRAM]
set -u
cd "$(dirname "$0")/.."
program=$(realpath "${1:-target/release/bradawl}"); record=$(realpath demo/kelp.json); failed=0
work=$(mktemp -d); trap 'tmux -L bradawl kill-server 2>/dev/null; rm -rf "$work"' EXIT
say() { printf '%-60s %s\n' "$1" "$2"; [ "$2" = yes ] || failed=1; }
python3 -c 'import json,sys; print(json.load(open(sys.argv[1]))["tables"][0]["text"], end="")' "$record" >"$work/before"
shown() { tmux -L bradawl capture-pane -p -t "$1" -S -200; }
until_shown() { for _ in $(seq 100); do shown "$1" | grep -q -- "$2" && return 0; sleep 0.1; done; return 1; }
start() { # NAME EDITOR
    cp "$work/before" "$work/$1"
    tmux -L bradawl -f /dev/null new-session -d -s "$1" -x 100 -y 40 "TMPDIR=$work EDITOR='$2' $program edit $work/$1 --host $record; echo ended \$?; sleep 600"
}
keys() { local to=$1; shift; tmux -L bradawl send-keys -t "$to" "$@"; }
same() { cmp -s "$work/before" "$work/$1"; }

start vim vim.tiny; sleep 1
keys vim 'Go' 'tmpfs /srv/fresh tmpfs size=8M,noatme 0 0' Escape ':wq' Enter
until_shown vim 'write anyway' && was=yes || was=no; say "vim: a typo is refused" $was
keys vim w Enter; sleep 0.5; same vim && was=yes || was=no; say "vim: w alone does not write it" $was
keys vim r Enter; until_shown vim 'w: write it' && was=yes || was=no; say "vim: the repair is taken" $was
keys vim w Enter; until_shown vim 'ended 0' && grep -q 'size=8M,noatime' "$work/vim" && was=yes || was=no; say "vim: written" $was

start nano nano; sleep 1
keys nano M-/ 'tmpfs /srv/fresh tmpfs size=8M 0 0' Enter C-o Enter C-x
until_shown nano 'w: write it' && keys nano e Enter && sleep 1 && keys nano C-x && until_shown nano 'w: write it' && keys nano w Enter
until_shown nano 'ended 0' && grep -q '^tmpfs /srv/fresh' "$work/nano" && was=yes || was=no; say "nano: edited again, then written" $was

start left vim.tiny; sleep 1; keys left ':q!' Enter; until_shown left 'ended 0' && same left && was=yes || was=no; say "vim: left unchanged" $was
start asked vim.tiny; sleep 1; keys asked 'Go' '# tide' Escape ':wq' Enter; until_shown asked 'w: write it'; keys asked C-c; sleep 0.5
same asked && was=yes || was=no; say "interrupted at the prompt: nothing written" $was
start inside vim.tiny; sleep 1; keys inside 'Go' '# tide' Escape; tmux -L bradawl kill-session -t inside; sleep 0.5; same inside && was=yes || was=no; say "the terminal closed inside the editor: nothing written" $was
# Two at once: who writes second is told, and loses nothing.
start twice vim.tiny; tmux -L bradawl new-session -d -s second -x 100 -y 40 "TMPDIR=$work EDITOR=vim.tiny $program edit $work/twice --host $record; echo ended \$?; sleep 600"; sleep 1
for s in twice second; do keys $s 'Go' "# $s" Escape ':wq' Enter; until_shown $s 'w: write it'; done
keys twice w Enter; until_shown twice 'ended 0'; keys second w Enter; until_shown second 'ended 2'
grep -q '# twice' "$work/twice" && ! grep -q '# second' "$work/twice" && shown second | grep -q 'your text is kept in' && was=yes || was=no; say "two at once: the second is refused and its text kept" $was
exit $failed
