#!/bin/bash
# Copies a guest's image with the program in it, and has its report end with the host's own record.
# usage: lab/with-program.sh LAB FROM TO PROGRAM    (root-FROM.img becomes root-TO.img)
set -eu
lab=$1 from=$2 to=$3 program=$4
cp --sparse=always "$lab/root-$from.img" "$lab/root-$to.img"
for f in initrd vmlinuz; do [ -e "$lab/$f-$to" ] || cp "$lab/$f-$from" "$lab/$f-$to"; done
at=$(mktemp -d)
mount -o loop "$lab/root-$to.img" "$at"
install -m755 "$program" "$at/usr/local/bin/bradawl"
for report in boot-report plain-report; do
    [ -e "$at/usr/local/sbin/$report" ] || continue
    grep -q 'bradawl survey' "$at/usr/local/sbin/$report" ||
        sed -i 's/^echo "REPORT-END"/bradawl survey -q --format json 2>\/dev\/null | gzip -9 | base64 -w 200 | sed "s|^|record |"\n&/' "$at/usr/local/sbin/$report"
done
umount "$at"; rmdir "$at"
