#!/bin/bash
# build-early.sh LAB: the guest and the disks of boots-early.jsonl, from LAB/rootfs-bookworm and LAB/disks: the table is put in
# place before the initramfs looks for /usr in it, arrays and volume groups are put together in the initramfs, and a
# sleeping system is looked for although this kernel cannot sleep. Needs root, user-mode-linux, cpio.
set -eu
LAB=$1; HERE=$(cd "$(dirname "$0")" && pwd); R=$LAB/rootfs-early; D=$LAB/disks
UML=$(ls /usr/lib/uml/modules | head -1)
if [ ! -d "$R" ]; then
  cp -a "$LAB/rootfs-bookworm" "$R"
  cp /etc/resolv.conf "$R/etc/"
  chroot "$R" apt-get update -qq
  chroot "$R" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends mdadm >/dev/null
  rm -rf "$R"/var/cache/apt/archives/*.deb "$R"/var/lib/apt/lists/*
fi
S=$R/usr/share/initramfs-tools
mv "$R/etc/initramfs-tools/scripts/local-bottom/scenario" "$R/etc/initramfs-tools/scripts/scenario" 2>/dev/null || true
grep -q /scripts/scenario "$S/init" || sed -i 's|^if read_fstab_entry /usr|[ -x /scripts/scenario ] \&\& /scripts/scenario\n&|' "$S/init"
sed -i 's/ || \[ ! -e \/sys\/power\/resume \]//' "$S/scripts/local-premount/resume"
printf 'ubd\next4\nxfs\nbtrfs\nraid0\nraid1\nraid456\nmd-mod\ndm-mod\ndm-mirror\ndm-raid\n' > "$R/etc/initramfs-tools/modules"
cat > "$R/etc/mdadm/mdadm.conf" <<"END"
CREATE owner=root group=disk mode=0660 auto=yes
HOMEHOST <system>
ARRAY /dev/md/raid metadata=1.2 UUID=5d0c1f0e:6a354b1c:9a550f6f:1f1ad001
ARRAY /dev/md/swell metadata=1.2 UUID=5d0c1f0e:6a354b1c:9a550f6f:1f1ad002
END
zcat /usr/share/doc/user-mode-linux/config.gz > "$R/boot/config-$UML"
chroot "$R" mkinitramfs -o /boot/initrd.uml "$UML"
mv "$R/boot/initrd.uml" "$LAB/initrd-uml-early"; rm -f "$R/boot/config-$UML"
rm -f "$LAB/root-early.img"; truncate -s 1900M "$LAB/root-early.img"
mkdir -p "$R"/srv/{raid,lv}
mke2fs -q -t ext4 -L hull -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001 -d "$R" "$LAB/root-early.img"
# /usr of its own; a mirror, a stripe, a group of two disks
rm -f "$D"/{u,xa,xb,ra,rb,rc,sa,sb,pa,pb}.img
truncate -s 900M "$D/u.img"
mke2fs -q -t ext4 -L usr -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a900a -d "$R/usr" "$D/u.img"
for d in xa xb; do truncate -s 128M "$D/$d.img"; done
mkfs.btrfs -q -d raid1 -m raid1 -L shoal -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab11b "$D/xa.img" "$D/xb.img"
for d in ra rb sa sb pa pb; do truncate -s 48M "$D/$d.img"; done
python3 "$HERE/record-early.py" "$LAB" "$HERE/make-arrays.sh"
# the mirror as its first half knows it once it has run without the other
cp --sparse=always "$D/ra.img" "$D/rc.img"
python3 "$HERE/record-early.py" "$LAB" "$HERE/run-degraded.sh"
