#!/bin/bash
# One disk of 20 MiB in every format that diskimage reads, by the system's own tool, packed: the fixtures of its tests.
# Bytes at three places tell whether all of it is read. Needs qemu-utils, python3, zstd, xz-utils, tabix (bgzip), dictzip.
# usage: lab/make-disk-formats.sh OUT
set -eu
out=${1:?usage: lab/make-disk-formats.sh OUT}; mkdir -p "$out"
work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
python3 - "$work/raw" <<'P'
import sys
with open(sys.argv[1], 'wb') as f:
    f.truncate(20 << 20)
    for start, length in ((0, 5000), ((9 << 20) + 70, 150000), ((20 << 20) - 700, 700)):
        f.seek(start); f.write(bytes((start // 7 + n * 31 + n // 251) & 255 for n in range(length)))
P
convert() { qemu-img convert -f raw -O "$2" ${3:+$3} ${4:+-o "$4"} "$work/raw" "$work/$1"; zstd -q -19 -f "$work/$1" -o "$out/$1.zst"; }
convert plain.qcow2 qcow2
convert small.qcow2 qcow2 '' cluster_size=4096,compat=0.10
convert zlib.qcow2 qcow2 -c
convert zstd.qcow2 qcow2 -c compression_type=zstd
convert parts.qcow2 qcow2 '' extended_l2=on,cluster_size=128k
convert sparse.vmdk vmdk
convert stream.vmdk vmdk '' subformat=streamOptimized
convert grows.vdi vdi
convert grows.vhd vpc '' force_size=on
convert fixed.vhd vpc '' subformat=fixed,force_size=on
convert grows.vhdx vhdx
qemu-img create -q -f qcow2 -b "$work/raw" -F raw "$work/layer.qcow2"; zstd -q -19 -f "$work/layer.qcow2" -o "$out/layer.qcow2.zst"
# Packed, in pieces and in one.
keep() { cat > "$work/$1"; zstd -q -19 -f "$work/$1" -o "$out/$1.zst"; }
cd "$work"; split -b 7M raw part.
xz -c -T2 --block-size=3MiB raw | keep blocks.xz
{ xz -c --block-size=2MiB part.aa; head -c 8 /dev/zero; xz -c -9 part.ab; xz -c --check=sha256 part.ac; } | keep streams.xz
xz -c plain.qcow2 | keep inside.xz
xz -c --x86 --lzma2 raw | keep other.xz
{ zstd -q -c part.aa; printf '\x50\x2a\x4d\x18\x04\0\0\0tide'; zstd -q -c --no-check part.ab; zstd -q -19 -c part.ac; } | keep frames.zstd
zstd -q -c < raw | keep unsized.zstd
bgzip -c raw | keep blocks.gz
cp raw parts; dictzip parts; keep parts.gz < parts.dz
gzip -c raw | keep one.gz
cat part.a? | split -b 7M --filter='gzip -c' - | keep members.gz
ls -l "$out"
