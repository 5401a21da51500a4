#!/bin/bash
# Surveys many ssh servers at once, and prints what that costs: connections, bytes, time for each host, memory of the program
# and of the ssh clients; then the same over connections that stand already (ControlMaster), and for a host with a long answer.
# Needs root, openssh-server, jq, GNU time. usage: lab/try-many-hosts.sh PROGRAM [HOSTS] [JOBS]
set -u
program=$(realpath "${1:?usage: lab/try-many-hosts.sh PROGRAM [HOSTS] [JOBS]}") count=${2:-200} jobs=${3:-200}
here=$(dirname "$(realpath "$0")")
BASE_PORT=23000; . "$here/sshd-hosts.sh"
trap stop_hosts EXIT
for n in $(seq "$count"); do serve "gauge-$(printf %03d "$n")" "LogLevel VERBOSE"; done 2>/dev/null
seq "$count" | awk '{printf "gauge-%03d\n", $1}' >"$work/hosts"
bytes() { ip -s link show lo | awk 'f {print $1; exit} /RX:/ {f = 1}'; }
failed=0
survey() { # NAME [SETTING OF THE CLIENT]...
    name=$1; shift
    { cat "$config"; echo 'Host *'; for line in "$@"; do echo "  $line"; done; } >"$config.$name"
    before=$(bytes)
    # The clients' memory, looked at while they run: the most of all together.
    (most=0; while :; do
        now=$(ps -C ssh -o rss= | awk '{s += $1} END {print s + 0}'); [ "$now" -gt "$most" ] && most=$now
        echo "$most" >"$work/clients"; read -r -t 0.5 <>"$work/pause"; done) & watch=$!
    \time -f '%M %U %S' -q -o "$work/time" "$program" survey --hosts "$work/hosts" -o "$work/$name" --ssh-config "$config.$name" \
        --limit 600 --jobs "$jobs" --retries 0 >/dev/null 2>"$work/said" || { tail -3 "$work/said"; failed=1; }
    kill $watch; wait $watch 2>/dev/null
    jq -r --arg name "$name" --arg kib "$(cut -d' ' -f1 "$work/time")" --arg clients "$(cat "$work/clients")" --arg bytes "$(($(bytes) - before))" '
        [.hosts[] | select(.state == "taken") | .took_s] | sort |
        "\($name): \(length) surveyed; a host took \(.[length / 2 | floor]) s (median), \(.[-1]) s at most; " +
        "\(($bytes | tonumber) / length / 1024 | floor) KiB on the wire each; program \(($kib | tonumber) / 1024 | floor) MiB, its clients \(($clients | tonumber) / 1024 | floor) MiB"' "$work/$name/index.json"
}
mkfifo "$work/pause"
SECONDS=0; survey each-its-own; echo "  $SECONDS s in all"
SECONDS=0; survey made-to-stand 'ControlMaster auto' "ControlPath $work/c-%C" 'ControlPersist 300'; echo "  $SECONDS s in all"
SECONDS=0; survey standing 'ControlMaster auto' "ControlPath $work/c-%C" 'ControlPersist 300'; echo "  $SECONDS s in all"
pkill -f "$work/c-" 2>/dev/null
# A host with 190,000 accounts: 6 MB.
{ echo 'bradawl-collected 1 base64'; printf 'f /etc/passwd '; seq 190000 | awk '{printf "x:x:1:1:%07d:/:/bin/sh\n", $1}' | base64 -w0; printf '\nend\n'; } >"$work/long.txt"
for _ in $(seq 12); do printf 'bradawl-collected 1 base64\nend\n'; done >"$work/no-more.txt"
chmod 644 "$work/long.txt" "$work/no-more.txt"
serve long "ForceCommand cat $work/long.txt $work/no-more.txt; sleep 5"
echo long >"$work/hosts"
ls -l "$work/long.txt" | awk '{print "an answer of " int($5 / 1024) " KiB:"}'
survey long
exit $failed
