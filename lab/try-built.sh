#!/bin/bash
# try-built.sh: what this machine's kernel says of options and file systems that a kernel has to be built for, beside its
# configuration; and what `audit` says of the same. Root, loop devices, e2fsprogs, xfsprogs.
set -eu
cd "$(dirname "$0")/.."
BRADAWL=${BRADAWL:-target/release/bradawl}
W=$(mktemp -d); mkdir "$W/on"; trap 'rm -rf "$W"' EXIT
(zcat /proc/config.gz 2>/dev/null || cat "/boot/config-$(uname -r)") | grep -E '^(# )?CONFIG_(QFMT_V2|TMPFS_QUOTA|UNICODE|XFS_QUOTA|XFS_SUPPORT_V4)[ =]' || true
right=0 all=0
try() { # TYPE OPTIONS [IMAGE]
    local source=${3:-none} said taken
    if mount -t "$1" -o "${3:+loop,}$2" "$source" "$W/on" 2>/dev/null; then umount "$W/on"; taken=yes; else taken=no; fi
    printf '%s %s %s %s 0 0\n' "$source" "$W/on" "$1" "${3:+loop,}$2" > "$W/table"
    said=$("$BRADAWL" audit --table "$W/table" --ask-generator never --format json | grep -c 'it was built\|was built without' || true)
    [ "$said" = 0 ] && said=yes || said=no
    all=$((all + 1)); [ "$said" = "$taken" ] && right=$((right + 1))
    echo "$1 ${3:+$(basename "$3") }$2: the kernel $taken, audit $said"
}
for feature in casefold quota project; do
    truncate -s 32M "$W/$feature"; mke2fs -q -t ext4 -O "$feature" "$W/$feature"
    try ext4 rw "$W/$feature"; try ext4 ro "$W/$feature"
done
truncate -s 320M "$W/plain"; mkfs.xfs -q "$W/plain"
truncate -s 320M "$W/older"; mkfs.xfs -q -m crc=0,finobt=0,rmapbt=0,reflink=0 "$W/older" 2>/dev/null
for o in uquota gquota pquota noquota uquota,noquota; do try xfs "$o" "$W/plain"; done
try xfs rw "$W/older"; try xfs ro "$W/older"
for o in quota usrquota grpquota size=1M; do try tmpfs "$o"; done
echo "$right of $all as the kernel"
