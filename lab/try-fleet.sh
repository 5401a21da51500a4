#!/bin/bash
# Surveys hosts over ssh servers on loopback ports: three sound ones, one that refuses the key, one that hangs, one that
# sends garbage, one with full disks, one with busybox only, one as an ordinary user, one that becomes root by sudo, one port where nobody is; on a
# machine with swap files and loop devices of several types. The good ones have to say what a survey on the spot says.
# Needs root, openssh-server, busybox, sudo. usage: lab/try-fleet.sh PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-fleet.sh PROGRAM}")
here=$(dirname "$(realpath "$0")")
. "$here/sshd-hosts.sh"
loops=()
cp /etc/fstab "$work/fstab.before"
cleanup() {
    cp "$work/fstab.before" /etc/fstab; rm -f /etc/sudoers.d/bradawl-lab
    umount "$work/mnt" 2>/dev/null; for l in "${loops[@]}"; do losetup -d "$l"; done; stop_hosts
}
trap cleanup EXIT
mkdir "$work/mnt" "$work/local" "$work/own folder"
for type in ext4 xfs btrfs vfat exfat swap; do
    truncate -s 500M "$work/$type.img"
    case $type in ext4) mkfs.ext4 -qF -L tides "$work/ext4.img" ;; vfat) mkfs.vfat -n FIELD "$work/vfat.img" >/dev/null ;;
        exfat) mkfs.exfat -L CARD "$work/exfat.img" >/dev/null ;; swap) mkswap -q "$work/swap.img" ;; *) mkfs.$type -q "$work/$type.img" >/dev/null 2>&1 ;; esac
    loops+=("$(losetup -f --show "$work/$type.img")")
done
mount "${loops[0]}" "$work/mnt"
dd if=/dev/zero of="$work/mnt/swapfile" bs=1M count=16 status=none; chmod 600 "$work/mnt/swapfile"; mkswap -q "$work/mnt/swapfile"
printf 'LABEL=tides %s ext4 defaults 0 2\n%s none swap sw 0 0\nLABEL=FIELD /media/field vfat nofail 0 0\ntmpfs %s tmpfs size=1G 0 0\n' \
    "$work/mnt" "$work/mnt/swapfile" "${work}/own\\040folder" >/etc/fstab
serve good-1; serve good-2; serve good-3
serve refuses "AuthorizedKeysFile /dev/null"
serve hangs "ForceCommand sleep 1000"
serve garbage "ForceCommand head -c 3000000 /dev/urandom"
serve full "ForceCommand $work/full.sh sh -s"
serve small "ForceCommand $work/busybox.sh sh -s"
serve user; serve raised
printf 'tidewatch ALL=(root) NOPASSWD: /usr/bin/sh -s\n' >/etc/sudoers.d/bradawl-lab
printf 'Host absent\n  Port 1\nHost user raised\n  User tidewatch\n' | cat - "$config" >"$config.new" && mv "$config.new" "$config"
cat >"$work/hosts.toml" <<EOF
[role.gauge]
hosts = ["good-1", "good-2", "good-3", "full", "small"]
[role.raised]
hosts = ["raised"]
become = "sudo"
[role.odd]
hosts = ["refuses", "hangs", "garbage", "absent", "user"]
EOF
SECONDS=0
"$program" survey --hosts "$work/hosts.toml" -o "$work/records" --ssh-config "$config" --limit 20 --jobs 10 --retries 0
echo "status $?, $SECONDS s for 11 hosts, one of them hanging until its 20 s are over"
failed=0
"$program" survey -o "$work/local/root.json" >/dev/null
"$work/busybox.sh" "$program" survey -o "$work/local/small.json" >/dev/null
"$work/full.sh" "$program" survey -o "$work/mnt/full.json" >/dev/null
install -m 755 "$program" "$work/program"
setpriv --reuid tidewatch --regid tidewatch --clear-groups "$work/program" survey --format json >"$work/local/user.json"
same() { # FIRST SECOND NAME [FACT UNKNOWN TO THE FIRST]...
    if python3 "$here/compare-records.py" "$1" "$2" "${@:4}"; then echo "$3: as on the spot${4:+ but for ${*:4}}"; else echo "$3: DIFFERS"; failed=1; fi
}
for host in good-1 good-2 good-3 raised; do same "$work/records/$host.json" "$work/local/root.json" $host; done
same "$work/records/small.json" "$work/local/small.json" small nocow shared
same "$work/records/full.json" "$work/mnt/full.json" full
same "$work/records/user.json" "$work/local/user.json" user
python3 - "$work/records/index.json" <<'EOF' || failed=1
import json, sys
index = json.load(open(sys.argv[1]))
states = {h['host']: h['state'] for h in index['hosts']}
wanted = {h: 'failed' for h in ('refuses', 'hangs', 'garbage', 'absent')} | {h: 'taken' for h in ('good-1', 'good-2', 'good-3', 'full', 'small', 'user', 'raised')}
print('index right' if states == wanted else f'index WRONG: {states}')
sys.exit(states != wanted)
EOF
stat -c '%a %n' "$work"/records/good-1.json | sed "s|$work|WORK|"
"$program" survey --hosts "$work/hosts.toml" -o "$work/records" --ssh-config "$config" --limit 5 --jobs 10 --retries 0 2>&1 >/dev/null | sed "s|$work|WORK|" | grep -c . | sed 's/$/ hosts tried again: those that failed/'
"$program" survey --collector >"$work/collector.sh"; mkdir -p "$work/outputs/gauge"
sh "$work/collector.sh" >"$work/outputs/gauge/spot.txt"
"$program" survey --from-collected "$work/outputs" -o "$work/from" >/dev/null; same "$work/from/spot.json" "$work/local/root.json" collected subvolumes
if command -v dash >/dev/null; then dash -n "$work/collector.sh" && echo "dash reads the script"; fi
exit $failed
