#!/bin/bash
# What try-steps.sh cannot do on a host without partitions on loop devices, or
# without the types: run inside the guest, on its empty disk, whose content is
# thrown away with it.
# usage: lab/record-guest.py LAB PROGRAM --try lab/try-guest-steps.sh
set -u
program=$1
work=/var/tmp/steps; mkdir -p "$work"
disk=$("$program" devices --format json | python3 -c '
import json, sys
print(next(d["path"] for d in json.load(sys.stdin)["devices"] if d.get("content") == "empty" or d.get("kind") == "empty"))' 2>/dev/null)
disk=${disk:-/dev/ubdi}
failed=0
steps() {
    local name=$1; shift
    "$program" draft "$@" --into /etc/fstab --even-if-worse >"$work/$name.txt" 2>&1 || { echo "$name: refused: $(tail -1 "$work/$name.txt")"; failed=1; return; }
    # The commands stand deeper than what they are for.
    grep -E '^      [a-z]' "$work/$name.txt" | grep -vE '^ *(bradawl|find /proc)' >"$work/$name.sh"
    if bash -e -x "$work/$name.sh" >"$work/$name.log" 2>&1; then echo "$name: $(wc -l <"$work/$name.sh") steps ran; $(grep " $2 " /proc/mounts)"; else echo "$name: a step failed"; tail -4 "$work/$name.log"; failed=1; fi
}
steps partition "$disk" /srv/new --partition
umount /srv/new; dd if=/dev/zero of="$disk"1 bs=1M status=none; sync; udevadm settle
modprobe vfat; steps vfat "$disk"1 /srv/fat --type vfat --owner root
# data with services that write there
echo "before: $(find /var/log | wc -l) names"
steps move LABEL=oldie /var/log --move
echo "after: $(find /var/log ! -name lost+found | wc -l) names, $(grep -c ' /var/log ' /proc/mounts) mounted"
exit $failed
