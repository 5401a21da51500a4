#!/bin/bash
# live-devices.sh: a GPT disk with file systems, a mirrored array and a volume group on loop devices, and what devices
# and resolve say of them. Needs root, loop devices, and Debian's fdisk, e2fsprogs, xfsprogs, dosfstools; mdadm and lvm2
# parts are made as images by packed fixtures, as the kernel here may lack both drivers.
set -eu
cd "$(dirname "$0")/.."
BRADAWL=${BRADAWL:-target/release/bradawl}
W=$(mktemp -d); LOOPS=
trap 'for l in $LOOPS; do losetup -d "$l"; done; rm -rf "$W"' EXIT
attach() { L=$(losetup -f --show "$@"); LOOPS="$LOOPS $L"; }

truncate -s 512M "$W/disk.img"
sfdisk -q "$W/disk.img" <<T
label: gpt
label-id: 0d5c1f0e-6a35-4b1c-9a55-0f6f1f1a0b0b
start=2048, size=65536, type=L, uuid=0d5c1f0e-6a35-4b1c-9a55-0f6f1f1a0b01, name="ledger"
size=655360, type=L, uuid=0d5c1f0e-6a35-4b1c-9a55-0f6f1f1a0b02, name="silo"
size=65536, type=U, uuid=0d5c1f0e-6a35-4b1c-9a55-0f6f1f1a0b03, name="field"
T
part() { attach -o "$(($1 * 512))" --sizelimit "$(($2 * 512))" "$W/disk.img"; P=$L; }
part 2048 65536;   mkfs.ext4 -q -L grain -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b "$P"
part 67584 655360; mkfs.xfs -q -L silo -m uuid=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ad00d "$P"
part 722944 65536; mkfs.vfat -n FIELD -i 4B1D7E20 "$P" > /dev/null
attach "$W/disk.img"; DISK=$L

echo "--- the disk as a loop device: the kernel has not read its table"
"$BRADAWL" devices
echo "--- resolve, by every form of a name (one digit is wrong in the last UUID)"
"$BRADAWL" resolve "$DISK" UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b LABEL=silo UUID=4b1d7e20 uuid=5D0C1F0E-6A35-4B1C-9A55-0F6F1F1AD00D \
    UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00c || true
echo "--- the same disk as an image, and an audit of a table on it"
"$BRADAWL" devices "$W/disk.img"
printf 'PARTLABEL=ledger /srv/ledger ext4 nofail 0 2\nPARTUUID=0d5c1f0e-6a35-4b1c-9a55-0f6f1f1a0b02 /srv/silo ext4 nofail 0 0\n' > "$W/table"
"$BRADAWL" audit "$W/disk.img" --table "$W/table" || true
echo "--- a mirror's member and a volume group over two disks"
for i in md-raid1-10-a lvm-pv-vg-a lvm-pv-vg-b; do zstd -d -q "crates/core/facts/tests/fixtures/images/$i.img.zst" -o "$W/$i.img"; attach "$W/$i.img"; done
"$BRADAWL" devices "$W/lvm-pv-vg-a.img" "$W/lvm-pv-vg-b.img"
"$BRADAWL" devices "$W/md-raid1-10-a.img"
echo "--- the same as devices of this host, where nothing of it is active"
"$BRADAWL" devices
"$BRADAWL" resolve LABEL=onmd10 LABEL=inlv LABEL=absent || true
echo "--- unprivileged: a raw image with an ext4 root that has a table"
zstd -d -q crates/cli/tests/fixtures/root.img.zst -o "$W/root.img"
install -m 755 "$BRADAWL" "$W/bradawl"; chmod 755 "$W"; chmod 644 "$W/root.img"
setpriv --reuid 65534 --regid 65534 --clear-groups "$W/bradawl" audit "$W/root.img" || true
