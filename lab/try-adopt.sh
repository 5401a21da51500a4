#!/bin/bash
# Mounts a tree of loop devices as an installer does (root, boot, EFI where the
# kernel has vfat, data, swap), adopts it, and adopts it again. Needs root.
# usage: lab/try-adopt.sh PROGRAM
set -u
modprobe vfat 2>/dev/null
program=$(realpath "${1:?usage: lab/try-adopt.sh PROGRAM}")
work=$(mktemp -d /var/tmp/adopt.XXXXXX)
loops=()
failed=0
cleanup() {
    for area in "${loops[@]}"; do swapoff "$area" 2>/dev/null; done
    umount -R "$work/new" 2>/dev/null
    for loop in "${loops[@]}"; do losetup -d "$loop"; done
    rm -rf "$work"
}
trap cleanup EXIT
device() {
    truncate -s "$2" "$work/$1.img"
    loop=$(losetup -f --show "$work/$1.img") || exit 1
    loops+=("$loop")
}
mkdir "$work/new"
device root 300M; mkfs.ext4 -qL hull "$loop"; mount -o errors=remount-ro "$loop" "$work/new"
mkdir -p "$work/new/boot" "$work/new/srv/tides" "$work/new/proc" "$work/new/etc"
device boot 100M; mkfs.ext4 -q "$loop"; mount -o nodev "$loop" "$work/new/boot"
mkdir -p "$work/new/boot/efi"
if grep -qw vfat /proc/filesystems; then
    device efi 64M; mkfs.vfat "$loop" >/dev/null; mount -o umask=0077 "$loop" "$work/new/boot/efi"
else
    echo "this kernel has no vfat: no EFI partition"
fi
device data 400M; mkfs.xfs -q "$loop"; mount -o noatime "$loop" "$work/new/srv/tides"
mount -t proc proc "$work/new/proc"
device swap 64M; mkswap "$loop" >/dev/null; swapon -p 5 "$loop"
"$program" adopt --tree "$work/new" --write || failed=1
echo "--- the table"
cat "$work/new/etc/fstab"
cp "$work/new/etc/fstab" "$work/first"
echo "--- again"
"$program" adopt --tree "$work/new" --merge --write || failed=1
cmp "$work/first" "$work/new/etc/fstab" || failed=1
echo "--- audit"
"$program" audit "$work/new" --live-devices || failed=1
exit $failed
