#!/bin/bash
# A lab in which real kernels with every module are asked about mount options: for each release a root with its mount
# program and python3, its full kernel, an initrd that does nothing but start the recorder; and images of every type in
# several variants. Root, debootstrap, qemu-system-x86, busybox-static and the mkfs programs of all types.
# With SERVERS=1 the roots also have servers of NFS, SMB and ssh, for run-helpers.py.
# usage: lab/make-option-lab.sh LAB [RELEASE...]   (ROOTS: a directory with roots made before)
set -eu
lab=$1; shift
mirror=${MIRROR:-http://deb.debian.org/debian}
packages="python3-minimal kmod mount ntfs-3g nfs-common cifs-utils fuse-overlayfs sshfs${SERVERS:+ python3 nfs-kernel-server samba openssh-server iproute2 rpcbind}"
mkdir -p "$lab/images"
for release in "${@:-bookworm}"; do
    root=$lab/root-$release
    [ -e "$lab/root-$release.img" ] && continue
    if [ -n "${ROOTS-}" ]; then cp -a "$ROOTS/$release" "$root"; else debootstrap --variant=minbase "$release" "$root" "$mirror"; fi
    rm -rf "$root"/proc/* "$root"/var/cache/apt/archives/*.deb
    mount -t proc proc "$root/proc"
    chroot "$root" sh -c 'apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends '"$packages" >"$lab/$release.log" 2>&1 </dev/null ||
        chroot "$root" sh -c 'DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends python3-minimal kmod mount' >>"$lab/$release.log" 2>&1 </dev/null
    package=$(chroot "$root" apt-cache depends linux-image-amd64 | sed -n 's/.*Depends: //p' | head -1)
    (cd "$root/tmp" && chroot "$root" sh -c "cd /tmp && apt-get download -q $package" >>"$lab/$release.log" 2>&1)
    umount "$root/proc"
    dpkg-deb -x "$root"/tmp/linux-image-*.deb "$lab/kernel-$release"; rm -f "$root"/tmp/linux-image-*.deb
    version=$(ls "$lab/kernel-$release"/*/modules "$lab/kernel-$release"/usr/lib/modules 2>/dev/null | grep '^[0-9]' | head -1)
    modules=$(find "$lab/kernel-$release" -type d -path "*/modules/$version" | head -1)
    cp "$lab/kernel-$release/boot/vmlinuz-$version" "$lab/vmlinuz-$release"
    # Drivers of devices that the guest has not are left out.
    mkdir -p "$root/lib/modules/$version/kernel"
    cp -a "$modules"/modules.* "$root/lib/modules/$version/"
    for part in fs lib crypto arch net/9p net/ceph net/rxrpc net/dns_resolver net/sunrpc drivers/virtio drivers/block/virtio_blk drivers/block/loop drivers/md/dm-mod drivers/cdrom drivers/mtd mm; do
        for found in "$modules/kernel/$part" "$modules/kernel/$part".ko*; do
            [ -e "$found" ] && mkdir -p "$root/lib/modules/$version/kernel/$(dirname "$part")" && cp -a "$found" "$root/lib/modules/$version/kernel/$(dirname "$part")/"
        done
    done
    chroot "$root" depmod "$version" 2>/dev/null || depmod -b "$root" "$version"
    rm -rf "$root"/usr/share/{doc,man,locale} "$root"/var/lib/apt/lists/*
    # The initrd: a shell, and what it takes to see the disk.
    early=$(mktemp -d)
    mkdir -p "$early/bin" "$early/m" "$early/r"; cp /bin/busybox "$early/bin/"
    for name in virtio virtio_ring virtio_pci_modern_dev virtio_pci_legacy_dev virtio_pci virtio_blk crc16 crc32c_generic libcrc32c mbcache jbd2 ext4; do
        find "$modules/kernel" -name "$name.ko*" -exec cp {} "$early/m/" \;
        for f in "$early/m/$name".ko.xz; do [ -e "$f" ] && xz -d "$f"; done
    done
    cat >"$early/init" <<'I'
#!/bin/busybox sh
/bin/busybox mkdir -p /proc /sys /dev
/bin/busybox mount -t proc proc /proc; /bin/busybox mount -t sysfs sysfs /sys; /bin/busybox mount -t devtmpfs dev /dev
for m in crc16 crc32c_generic libcrc32c mbcache jbd2 ext4 virtio virtio_ring virtio_pci_modern_dev virtio_pci_legacy_dev virtio_pci virtio_blk; do
    [ -e /m/$m.ko ] && /bin/busybox insmod /m/$m.ko
done
for i in 1 2 3 4 5 6 7 8 9; do [ -e /dev/vda ] && break; /bin/busybox sleep 0.2; done
/bin/busybox mount -t ext4 /dev/vda /r && for d in proc sys dev; do /bin/busybox mount --move /$d /r/$d; done
exec /bin/busybox switch_root /r /usr/bin/python3 /record.py
I
    chmod +x "$early/init"
    (cd "$early" && find . | cpio -o -H newc --quiet | gzip -1) >"$lab/initrd-$release"; rm -rf "$early"
    mkdir -p "$root/images" "$root/mnt"
    size=$(($(du -sm "$root" | cut -f1) + 300))
    truncate -s "${size}M" "$lab/root-$release.img"; mkfs.ext4 -q -d "$root" "$lab/root-$release.img"
    rm -rf "$root" "$lab/kernel-$release"
done
# Images: TYPE-VARIANT. Sparse; the guest's writes are thrown away.
make() { # NAME SIZE COMMAND...
    local at=$lab/images/$1 size=$2; shift 2
    [ -e "$at" ] || { truncate -s "$size" "$at" && "$@" "$at" >/dev/null 2>&1 || { rm -f "$at"; echo "not made: $at" >&2; }; }
}
make ext4-default 64M mkfs.ext4 -q -F -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b
make ext4-nojournal 32M mkfs.ext4 -q -F -O ^has_journal
make ext4-quota 64M mkfs.ext4 -q -F -O quota,project
make ext4-1k 32M mkfs.ext4 -q -F -b 1024 -E stride=8,stripe_width=16
make ext3-default 64M mkfs.ext3 -q -F
make ext2-default 32M mkfs.ext2 -q -F
make xfs-default 320M mkfs.xfs -q -f
make xfs-v4 320M mkfs.xfs -q -f -m crc=0
make xfs-stripe 640M mkfs.xfs -q -f -d su=64k,sw=4
make btrfs-default 128M mkfs.btrfs -q -f
make f2fs-default 128M mkfs.f2fs -q -f
make f2fs-compressed 128M mkfs.f2fs -q -f -O extra_attr,compression
make vfat-default 40M mkfs.vfat
make msdos-default 16M mkfs.vfat -F 16
make exfat-default 40M mkfs.exfat
make ntfs3-default 40M mkntfs -F -q -f
make udf-default 40M mkudffs
make jfs-default 40M jfs_mkfs -q
make nilfs2-default 140M mkfs.nilfs2 -q -f
make reiserfs-default 64M mkreiserfs -q -ff
tree=$(mktemp -d); echo tide >"$tree/tide"
[ -e "$lab/images/iso9660-default" ] || genisoimage -quiet -J -R -o "$lab/images/iso9660-default" "$tree"
[ -e "$lab/images/squashfs-default" ] || mksquashfs "$tree" "$lab/images/squashfs-default" -quiet -noappend >/dev/null
[ -e "$lab/images/erofs-default" ] || mkfs.erofs "$lab/images/erofs-default" "$tree" >/dev/null 2>&1
for image in iso9660 squashfs erofs; do truncate -s %4096 "$lab/images/$image-default"; done
rm -rf "$tree"; ls -l "$lab" "$lab/images"
