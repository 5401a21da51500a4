#!/bin/bash
# Small XFS and Btrfs images with a root file system's files in them, as the
# running kernel writes them: every way a directory, a file and a link are
# stored. Root, with both kernels' file systems and their tools.
# usage: lab/make-trees.sh OUT
set -eu
out=$1
mkdir -p "$out"
mnt=$(mktemp -d)
trap 'umount -q "$mnt" || true; rmdir "$mnt"' EXIT

fill() {
    mkdir -p "$mnt/etc" "$mnt/srv/tides/series" "$mnt/usr/bin" "$mnt/wide" "$mnt/huge"
    printf 'LABEL=hull / auto defaults 0 1\n/swap/file none swap sw 0 0\n' > "$mnt/etc/fstab"
    echo gannet > "$mnt/etc/hostname"
    ln -s usr/bin "$mnt/bin"
    ln -s ../../etc/hostname "$mnt/usr/bin/name"
    ln -s /etc "$mnt/srv/conf"
    ln -s loop-b "$mnt/loop-a"; ln -s loop-a "$mnt/loop-b"
    ln -s "$(printf 'long/%.0s' $(seq 120))end" "$mnt/far"
    printf '#!/bin/sh\n' > "$mnt/usr/bin/init"; chmod 4755 "$mnt/usr/bin/init"
    chown 1000 "$mnt/srv/tides"; chmod 1777 "$mnt/srv/tides"
    mkfifo "$mnt/srv/pipe"
    # A directory of a few blocks, one of many, a file with holes and one of many extents.
    for n in $(seq 60); do : > "$mnt/wide/name-of-some-length-$n"; done
    (cd "$mnt/huge"; for n in $(seq 3000); do : > "a-rather-long-name-for-a-file-$n"; done)
    truncate -s 1M "$mnt/srv/holes"; printf tide | dd of="$mnt/srv/holes" bs=1 seek=500000 conv=notrunc status=none
    for n in $(seq 0 2 300); do printf '%04d' "$n" | dd of="$mnt/srv/pieces" bs=1 seek=$((n * 4096)) conv=notrunc status=none; done
    seq 40000 > "$mnt/srv/lines"
    sync
}

xfs() {
    local name=$1; shift
    truncate -s 64M "$out/$name.img"
    mkfs.xfs -q -f --unsupported "$@" "$out/$name.img"
    mount -o loop "$out/$name.img" "$mnt"; fill; umount "$mnt"
}
xfs xfs-v5 -d agcount=3
# Kernels no longer mount version 4: its tool fills it by itself.
proto=$(mktemp)
seq 40000 > "$proto.lines"; printf 'LABEL=hull / auto defaults 0 1\n' > "$proto.table"
{
    printf '/dev/null\n1 1\nd--755 0 0\netc d--755 0 0\nfstab ---644 0 0 %s\n$\n' "$proto.table"
    printf 'srv d--755 0 0\nlines ---600 1000 0 %s\nconf l--777 0 0 /etc\n$\nhuge d--755 0 0\n' "$proto.lines"
    for n in $(seq 300); do printf 'a-rather-long-name-for-a-file-%s ---644 0 0 /dev/null\n' "$n"; done
    printf '$\n$\n'
} > "$proto"
truncate -s 64M "$out/xfs-v4.img"
mkfs.xfs -q -f --unsupported -m crc=0 -n ftype=0 -d agcount=2 -p "$proto" "$out/xfs-v4.img"
rm -f "$proto" "$proto.lines" "$proto.table"
xfs xfs-small-blocks -b size=1024 -n size=4096 -i size=512

btrfs() {
    local name=$1 options=$2; shift 2
    truncate -s 128M "$out/$name.img"
    mkfs.btrfs -q -f -m single "$@" "$out/$name.img"
    mount -o "loop,$options" "$out/$name.img" "$mnt"
}
btrfs btrfs-plain noatime
fill; umount "$mnt"
btrfs btrfs-subvolumes compress-force=zstd
command btrfs -q subvolume create "$mnt/@"; command btrfs -q subvolume create "$mnt/@home"
top=$mnt; mnt=$mnt/@; fill; mnt=$top
command btrfs -q subvolume create "$mnt/@/var"; echo kelp > "$mnt/@/var/word"
command btrfs -q subvolume snapshot "$mnt/@" "$mnt/before"
umount "$mnt"
btrfs btrfs-default compress-force=zlib
command btrfs -q subvolume create "$mnt/root"
top=$mnt; mnt=$mnt/root; fill; mnt=$top
command btrfs subvolume set-default "$mnt/root"
umount "$mnt"
for image in "$out"/*.img; do zstd -q -19 --rm -f "$image"; done
ls -l "$out"
