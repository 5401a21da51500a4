#!/bin/bash
# make-root-image.sh: a small ext4 root with a table, as a fixture of the command's tests. Needs e2fsprogs, qemu-utils and zstd.
set -eu
cd "$(dirname "$0")/../crates/cli/tests"; mkdir -p fixtures
W=$(mktemp -d); trap 'rm -rf "$W"' EXIT
mkdir -p "$W/root/etc" "$W/root/srv/gauges/old" "$W/root/usr/lib/systemd" "$W/root/home"
printf 'skerry\n' > "$W/root/etc/hostname"
printf 'ID=debian\nVERSION_ID="12"\nPRETTY_NAME="Debian GNU/Linux 12 (bookworm)"\n' > "$W/root/etc/os-release"
touch "$W/root/usr/lib/systemd/libsystemd-shared-252.so"
cat > "$W/root/etc/fstab" <<T
# skerry: a light with a tide gauge
UUID=6b3d1f70-52c8-4e0a-9d47-c1a85e2f9b36 / ext4 errors=remount-ro 0 1
UUID=6b3d1f70-52c8-4e0a-9d47-c1a85e2f9b37 /srv/gauges ext4 noatime 0 2
tmpfs /srv/fresh tmpfs size=64M 0 0
T
truncate -s 1M "$W/root.img"
mkfs.ext4 -q -F -O ^has_journal -L skerry -U 6b3d1f70-52c8-4e0a-9d47-c1a85e2f9b36 -E root_owner=0:0 -d "$W/root" "$W/root.img"
zstd -19 -q -f "$W/root.img" -o fixtures/root.img.zst
qemu-img convert -c -f raw -O qcow2 "$W/root.img" "$W/root.qcow2"
zstd -19 -q -f "$W/root.qcow2" -o fixtures/root-qcow2.img.zst
ls -l fixtures/root*
