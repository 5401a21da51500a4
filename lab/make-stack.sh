#!/bin/bash
# Makes a guest whose root lies on LVM on LUKS on a mirror of two disks, started by dracut: in a guest of its own, since this
# needs device-mapper. Writes LAB/disks/r0.img and r1.img (the mirror), LAB/root-KIND.img (an empty first disk), LAB/initrd-KIND
# and LAB/vmlinuz-KIND for run-machine.py, for the kinds stack (the key is in the initramfs) and stack-ask (somebody types it).
# usage: lab/make-stack.sh LAB INITS    (INITS: where make-init-guest.sh made its guest of kind dracut). Root, qemu-system-x86.
set -eu
LAB=$1 INITS=$2
R=$INITS/rootfs-dracut
kernel=$(cd "$R/lib/modules" && ls -d *-amd64)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT

cp --sparse=always "$INITS/root-dracut.img" "$LAB/root-build.img"
mkdir "$work/at"; mount -o loop "$LAB/root-build.img" "$work/at"
cat > "$work/at/build" <<'S'
#!/bin/bash
exec >/dev/ttyS0 2>&1
export PATH=/usr/sbin:/usr/bin:/sbin:/bin
mount -o remount,rw /
mount -t tmpfs tmpfs /run
/lib/systemd/systemd-udevd --daemon; udevadm trigger; udevadm settle
modprobe -a raid1 dm-mod dm-crypt
set -e
mdadm --create /dev/md/hull --level=1 --raid-devices=2 --metadata=1.2 --bitmap=none --assume-clean --run --uuid=5d0c1f0e:6a354b1c:9a550f6f:1f1a5d00 --homehost=any /dev/vdb /dev/vdc
printf tides | cryptsetup luksFormat --batch-mode --type luks2 --uuid 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a5d01 --pbkdf pbkdf2 --pbkdf-force-iterations 1000 /dev/md/hull -
printf tides | cryptsetup open --key-file - /dev/md/hull sealed
pvcreate -q /dev/mapper/sealed; vgcreate -q tide /dev/mapper/sealed
lvcreate -q -y -L 1200M -n root tide; lvcreate -q -y -L 64M -n swap tide
mke2fs -q -t ext4 -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a5d02 /dev/tide/root
mkswap -q -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a5d03 /dev/tide/swap
mkdir -p /run/at; mount /dev/tide/root /run/at
tar -C / --one-file-system -c --exclude=./run/* --exclude=./build . | tar -C /run/at -x
sync; umount /run/at; vgchange -q -an tide; cryptsetup close sealed; mdadm --stop /dev/md/hull
echo BUILT; sync
echo o > /proc/sysrq-trigger; sleep 60
S
chmod 755 "$work/at/build"; umount "$work/at"
for d in r0 r1; do rm -f "$LAB/disks/$d.img"; truncate -s 1500M "$LAB/disks/$d.img"; done
timeout 1500 qemu-system-x86_64 -accel tcg,thread=multi -cpu max -m 900 -smp 2 -nographic -no-reboot -nodefaults -monitor none -net none \
    -kernel "$INITS/vmlinuz-dracut" -initrd "$INITS/initrd-dracut" -serial "file:$work/console" -serial null \
    -append "root=UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001 rw console=ttyS0 init=/build" \
    -drive "file=$LAB/root-build.img,format=raw,if=virtio,snapshot=on" \
    -drive "file=$LAB/disks/r0.img,format=raw,if=virtio" -drive "file=$LAB/disks/r1.img,format=raw,if=virtio"
grep -q BUILT "$work/console" || { tail -20 "$work/console"; exit 1; }
rm "$LAB/root-build.img"

# The initramfs knows its container by crypttab, with the key beside it or with nobody's help.
for kind in stack stack-ask; do
    key=none; [ $kind = stack ] && key=/etc/hull.key
    printf tides > "$R/etc/hull.key"; chmod 600 "$R/etc/hull.key"
    printf 'sealed UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a5d01 %s luks\n' $key > "$R/etc/crypttab"
    chroot "$R" dracut --force --no-hostonly --no-hostonly-cmdline --gzip --kver "$kernel" --install "/etc/crypttab /etc/hull.key" \
        --include /etc/crypttab /etc/crypttab --add "lvm mdraid crypt scenario" \
        --add-drivers "virtio_pci virtio_blk ext4 raid1 dm-mod dm-crypt" /boot/initrd.stack 2>&1 | grep -i -E 'error|fail' || true
    mv "$R/boot/initrd.stack" "$LAB/initrd-$kind"
    cp "$INITS/vmlinuz-dracut" "$LAB/vmlinuz-$kind"
    truncate -s 1M "$LAB/root-$kind.img"
    rm -f "$R/etc/crypttab" "$R/etc/hull.key"
done
