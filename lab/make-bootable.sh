#!/bin/bash
# make-bootable.sh: the image that tests boot with a monitor of their own: a root file system with a table, the
# configuration of a boot loader, and files that stand for kernel, initramfs and systemd. No root; Debian's e2fsprogs, zstd.
set -eu
cd "$(dirname "$0")/.."
work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
mkdir -p "$work"/root/{etc,usr/bin,usr/lib/systemd,boot/grub,srv/tides}
printf 'ID=debian\nVERSION_ID="12"\n' >"$work/root/etc/os-release"; echo 'root:x:0:0::/root:/bin/sh' >"$work/root/etc/passwd"
echo sounding >"$work/root/etc/hostname"
printf 'LABEL=sounding / ext4 errors=remount-ro 0 1\nLABEL=tides /srv/tides ext4 noatme 0 2\n' >"$work/root/etc/fstab"
touch "$work/root/usr/lib/systemd/systemd" "$work/root/usr/lib/systemd/libsystemd-shared-252.so"
mkdir "$work/root/sbin"; ln -s /usr/lib/systemd/systemd "$work/root/sbin/init"
echo kernel >"$work/root/boot/vmlinuz-6.1.0-50-amd64"; echo initramfs >"$work/root/boot/initrd.img-6.1.0-50-amd64"
printf 'set default="0"\nmenuentry "Debian" {\n  linux /boot/vmlinuz-6.1.0-50-amd64 root=LABEL=sounding ro quiet\n  initrd /boot/initrd.img-6.1.0-50-amd64\n}\n' >"$work/root/boot/grub/grub.cfg"
truncate -s 2M "$work/image"
mke2fs -q -t ext4 -O ^has_journal -L sounding -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0002 -E hash_seed=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0003 -d "$work/root" "$work/image"
zstd -q -19 -f "$work/image" -o crates/cli/tests/fixtures/bootable.img.zst
