#!/bin/bash
# Puts a guest's root into a GPT with partitions of the types that systemd-gpt-auto-generator looks for: swap, home, srv, var/tmp, and
# a swap that is marked not to be taken. usage: lab/make-gpt-guest.sh LAB FROM TO    (root-FROM.img becomes root-TO.img). Root.
set -eu
lab=$1 from=$2 to=$3
image=$lab/root-$to.img
mib=$(($(stat -c %s "$lab/root-$from.img") / 1048576 + 1))
rm -f "$image"; truncate -s $((mib + 260))M "$image"
sfdisk -q "$image" <<S
label: gpt
start=1MiB, size=${mib}MiB, type=4F68BCE3-E8CD-4DB1-96E7-FBCAF984B709, name=root
size=32MiB, type=0657FD6D-A4AB-43C4-84E5-0933C84B4F4F, name=auto-swap
size=32MiB, type=933AC7E1-2EB4-4F13-B844-0E14E2AEF915, name=auto-home
size=32MiB, type=3B8F8425-20E0-4F3B-907F-1A25A76F98E8, name=auto-srv
size=32MiB, type=4D21B016-B534-45C2-A9FB-5C16E091FD2D, name=auto-var
size=32MiB, type=0657FD6D-A4AB-43C4-84E5-0933C84B4F4F, name=kept-swap, attrs="GUID:63"
S
# One loop device for each: not every kernel looks for partitions on them.
part() { losetup -f --show -o $(($1 * 1048576)) --sizelimit $(($2 * 1048576)) "$image"; }
loops=()
trap 'losetup -d "${loops[@]}"' EXIT
dd if="$lab/root-$from.img" of="$image" bs=1M seek=1 conv=sparse,notrunc status=none
root=$(part 1 $mib); loops+=("$root")
e2fsck -fy "$root" >/dev/null 2>&1 || true
next=$((mib + 1))
for sort in auto-swap home srv var kept-swap; do
    loop=$(part $next 32); loops+=("$loop"); next=$((next + 32))
    case $sort in *swap) mkswap -q -L $sort "$loop" ;; *) mke2fs -q -t ext4 "$loop" ;; esac
done
at=$(mktemp -d); mount "$root" "$at"; rm -rf "$at"/srv/*; rmdir "$at"/home/* 2>/dev/null || true; umount "$at"; rmdir "$at"
for f in initrd vmlinuz; do [ -e "$lab/$f-$to" ] || cp "$lab/$f-$from" "$lab/$f-$to"; done
