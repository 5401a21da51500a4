#!/bin/bash
# make-images.sh: one image of each format by the format's own tool, with identities given, and what the program says
# of it. No root. Needs Debian's e2fsprogs xfsprogs btrfs-progs dosfstools exfatprogs ntfs-3g f2fs-tools jfsutils
# nilfs-tools udftools squashfs-tools erofs-utils ocfs2-tools gfs2-utils cryptsetup-bin bcache-tools util-linux-extra.
set -u
cd "$(dirname "$0")/.."
BRADAWL=$PWD/${BRADAWL:-target/release/bradawl}
W=$(mktemp -d); trap 'rm -rf "$W"' EXIT; cd "$W"
U=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b
right=0; wrong=0; skipped=0
check() { # NAME SIZE KIND TYPE UUID LABEL COMMAND... ({} is the image)
    local name=$1 size=$2 kind=$3 type=$4 uuid=$5 label=$6; shift 6
    rm -f "$name.img"; truncate -s "$size" "$name.img"
    if ! eval "${*//\{\}/$name.img}" > "$name.log" 2>&1; then skipped=$((skipped+1)); echo "skipped $name: $(tail -1 "$name.log" | cut -c1-70)"; return; fi
    "$BRADAWL" devices "$name.img" --format json > "$name.json" || { wrong=$((wrong+1)); return; }
    python3 - "$name" "$kind" "$type" "$uuid" "$label" <<'P' && right=$((right+1)) || wrong=$((wrong+1))
import json, sys
name, *wanted = sys.argv[1:]
content = json.load(open(name + '.json'))['devices'][0]['content']
found = [content.get(k) or '' for k in ('kind', 'type', 'uuid', 'label')]
bad = [f'{f!r}, expected {w!r}' for f, w in zip(found, wanted) if w != '*' and f != w]
print('wrong' if bad else 'right', name, *bad)
sys.exit(bool(bad))
P
}
check ext2 8M filesystem ext2 $U grain mke2fs -q -F -t ext2 -U $U -L grain {}
check ext3 8M filesystem ext3 $U grain mke2fs -q -F -t ext3 -U $U -L grain {}
check ext4 16M filesystem ext4 $U grain mke2fs -q -F -t ext4 -U $U -L grain {}
check ext-journal 8M journal jbd $U book mke2fs -q -F -O journal_dev -U $U -L book {}
check xfs 320M filesystem xfs $U silo mkfs.xfs -q -L silo -m uuid=$U {}
check xfs-log 320M journal "xfs log" '*' '' "truncate -s 320M data.img && mkfs.xfs -q -f -l logdev={},size=64m data.img"
check btrfs 128M filesystem btrfs $U press mkfs.btrfs -q -U $U -L press {}
check fat12 1440K filesystem vfat 4B1D-7E20 FIELD mkfs.vfat -F 12 -i 4B1D7E20 -n FIELD {}
check fat32 48M filesystem vfat 4B1D-7E20 FIELD mkfs.vfat -F 32 -i 4B1D7E20 -n FIELD {}
check exfat 16M filesystem exfat '*' Grüße "mkfs.exfat -L Grüße {}"
check ntfs 8M filesystem ntfs '*' tides mkfs.ntfs -q -F -L tides {}
check f2fs 64M filesystem f2fs '*' flash mkfs.f2fs -q -l flash {}
check jfs 17M filesystem jfs '*' jetty mkfs.jfs -q -L jetty {}
check nilfs2 130M filesystem nilfs2 '*' log mkfs.nilfs2 -q -L log {}
check udf 8M filesystem udf '*' disc mkudffs -l disc {}
check squashfs 0 filesystem squashfs '' '' "mkdir -p empty && mksquashfs empty {} -noappend -quiet"
check erofs 0 filesystem erofs $U '' "mkdir -p empty && mkfs.erofs -U $U {} empty"
check ocfs2 256M filesystem ocfs2 '*' shoal "echo y | mkfs.ocfs2 -q -L shoal -M local -U 5d0c1f0e6a354b1c9a550f6f1f1ab00b {}"
check gfs2 64M filesystem gfs2 $U pier:north "mkfs.gfs2 -q -O -p lock_dlm -t pier:north -U $U -j 1 -J 8 {}"
check minix1 8M filesystem minix '' '' mkfs.minix -1 {}
check minix2 8M filesystem minix '' '' mkfs.minix -2 {}
check minix3 8M filesystem minix '' '' mkfs.minix -3 {}
check bfs 4M filesystem bfs '' VOLABC mkfs.bfs -V VOLABC -F FSNAME {}
check cramfs 0 filesystem cramfs '' crab "mkdir -p empty && mkfs.cramfs -n crab empty {}"
for page in 4096 8192 16384 65536; do check "swap-$page" 4M swap swap $U reserve mkswap -p $page -U $U -L reserve {}; done
check luks1 8M encrypted LUKS1 $U '' "printf tides | cryptsetup luksFormat -q --type luks1 --pbkdf-force-iterations 1000 --uuid $U {} -"
check luks2 20M encrypted LUKS2 $U vault "printf tides | cryptsetup luksFormat -q --type luks2 --pbkdf pbkdf2 --pbkdf-force-iterations 1000 --label vault --uuid $U {} -"
check verity 4M verity "dm-verity hash" $U '' "truncate -s 1M data.img && veritysetup format --uuid $U data.img {}"
check bcache 16M cache-member bcache '*' '' make-bcache -B {}
check nothing 1M empty '' '' '' true
echo "$right right, $wrong wrong, $skipped skipped"
[ $wrong = 0 ]
