#!/bin/bash
# Debian roots with a typo in their table, on ext4, XFS and Btrfs with subvolumes, each on a partition of a disk image, as
# raw, qcow2 and VMDK: audit has to find the typo without being told where the table is. Root, loop devices, fdisk,
# xfsprogs, btrfs-progs, qemu-utils; ROOT: a directory with a root to copy (etc, usr/lib/os-release), else a small one.
# usage: lab/try-root-images.sh [PROGRAM]
set -u
program=$(realpath "${1:-target/release/bradawl}"); failed=0
work=$(mktemp -d -p /dev/shm); trap 'umount "$work/at" 2>/dev/null; losetup -D; rm -rf "$work"' EXIT
cd "$work" || exit 1; mkdir at
fill() { # ROOT LINES
    mkdir -p "$1/etc" "$1/usr/bin" "$1/usr/lib/systemd" "$1/srv"
    printf 'ID=debian\nVERSION_ID="12"\n' >"$1/etc/os-release"; echo 'root:x:0:0::/root:/bin/sh' >"$1/etc/passwd"; echo tidewatch >"$1/etc/hostname"
    touch "$1/usr/lib/systemd/systemd" "$1/usr/lib/systemd/libsystemd-shared-252.so"
    printf '%s\ntmpfs /srv tmpfs size=8M,noatme 0 0\n' "$2" >"$1/etc/fstab"
}
for kind in ext4 xfs btrfs btrfs-default; do
    rm -f disk.img; truncate -s 420M disk.img
    printf 'label: gpt\n,8M\n,\n' | sfdisk -q disk.img
    loop=$(losetup -f --show -o $((9 << 20)) --sizelimit $((400 << 20)) disk.img) || exit 1
    case $kind in
        ext4) mkfs.ext4 -q "$loop"; mount "$loop" at; fill at "/dev/disk/by-uuid/$(blkid -o value -s UUID "$loop") / ext4 defaults 0 1" ;;
        xfs) mkfs.xfs -q -f "$loop"; mount "$loop" at; fill at "UUID=$(blkid -o value -s UUID "$loop") / xfs defaults 0 0" ;;
        btrfs*) mkfs.btrfs -q -f "$loop"; mount "$loop" at; btrfs -q subvolume create at/@; btrfs -q subvolume create at/@home
            fill at/@ "UUID=$(blkid -o value -s UUID "$loop") / btrfs subvol=@ 0 0"
            [ $kind = btrfs-default ] && btrfs subvolume set-default "$(btrfs subvolume show at/@ | sed -n 's/.*Subvolume ID:[[:space:]]*//p')" at ;;
    esac
    umount at; losetup -d "$loop"
    for format in raw qcow2 vmdk; do
        qemu-img convert -f raw -O $format disk.img "disk.$format"
        if "$program" audit "disk.$format" 2>&1 | grep -q 'noatme'; then found=yes; else found=no; failed=1; fi
        printf '%-14s %-6s %s\n' $kind $format $found
    done
done
exit $failed
