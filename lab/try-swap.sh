#!/bin/bash
# Makes swap files with the program on ext4, XFS and Btrfs (loop devices) and
# has the kernel take them; shows that files with holes, open modes and
# copy-on-write, and copies by reference, are flagged before the kernel refuses
# or warns. Needs root.
# usage: lab/try-swap.sh PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-swap.sh PROGRAM}")
work=$(mktemp -d /var/tmp/swap.XXXXXX)
loops=()
failed=0
cleanup() {
    grep -o "^$work[^ ]*" /proc/swaps | xargs -r -n1 swapoff
    for type in ext4 xfs btrfs; do umount "$work/$type" 2>/dev/null; done
    for loop in "${loops[@]}"; do losetup -d "$loop"; done
    rm -rf "$work"
}
trap cleanup EXIT
table="$work/fstab"; : >"$table"
for type in ext4 xfs btrfs; do
    truncate -s 500M "$work/$type.img"
    case $type in ext4) mkfs.ext4 -qF "$work/$type.img" ;; *) mkfs.$type -q "$work/$type.img" ;; esac
    loop=$(losetup -f --show "$work/$type.img") || exit 1
    loops+=("$loop"); mkdir "$work/$type"; mount "$loop" "$work/$type"
    "$program" swap --file "$work/$type/swapfile" --want 64M --write >"$work/said" || { cat "$work/said"; failed=1; }
    if swapon "$work/$type/swapfile" 2>"$work/warned" && [ ! -s "$work/warned" ]; then
        echo "$type: taken: $(awk -v p="$work/$type/swapfile" '$1==p{print $3 " KiB"}' /proc/swaps)"
        swapoff "$work/$type/swapfile"
    else
        echo "$type: not taken: $(cat "$work/warned")"; failed=1
    fi
    "$program" swap --file "$work/$type/swapfile" --want 64M --write 2>/dev/null && { echo "$type: written over"; failed=1; }
done
truncate -s 64M "$work/ext4/holes"; mkswap -q "$work/ext4/holes" 2>/dev/null; chmod 600 "$work/ext4/holes"
cp "$work/ext4/swapfile" "$work/ext4/open"; chmod 644 "$work/ext4/open"
cp --sparse=never "$work/btrfs/swapfile" "$work/btrfs/copied"; chmod 600 "$work/btrfs/copied"
dd if=/dev/zero of="$work/xfs/first" bs=1M count=16 status=none; mkswap -q "$work/xfs/first" 2>/dev/null
cp --reflink=always "$work/xfs/first" "$work/xfs/twin"; chmod 600 "$work/xfs/twin"; sync
dd if=/dev/zero of="$work/ext4/plain" bs=1M count=4 status=none; chmod 600 "$work/ext4/plain"
for file in ext4/swapfile ext4/holes ext4/open btrfs/copied ext4/plain xfs/twin; do
    echo "$work/$file none swap sw 0 0" >>"$table"
done
"$program" audit --table "$table" --format json | python3 -c '
import json, sys
for finding in json.load(sys.stdin)["hosts"][0]["findings"]:
    if finding["rule"].startswith("swap-"): print(finding["line"], finding["rule"], finding["consequence"])' | sort
n=0
for file in ext4/swapfile ext4/holes ext4/open btrfs/copied ext4/plain xfs/twin; do
    n=$((n + 1))
    said=$(swapon "$work/$file" 2>&1); status=$?
    echo "$n swapon: status $status ${said//$work/WORK}"
done
exit $failed
