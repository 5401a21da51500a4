#!/bin/bash
# Debian disk images as they are installed (GPT, root on a partition, GRUB's configuration), booted in a guest by
# `bradawl rehearse --guest`: a sound table, a typo, a wrong type, a disk that is not there, and others. What the boot did
# has to be what the forecast said, and no byte of the image may change. Root (to fill the image), qemu-system-x86,
# fdisk, e2fsprogs; LAB with root-RELEASE.img (make-root-image.sh).
# usage: LAB=FOLDER lab/try-guest.sh [PROGRAM] [RELEASE] [CASE...]
set -u
program=$(realpath "${1:-target/release/bradawl}"); release=${2:-bookworm}; shift 2 || true
work=$(mktemp -d -p "$LAB"); trap 'umount "$work/at" 2>/dev/null; losetup -D; rm -rf "$work"' EXIT
cd "$work" || exit 1; mkdir at
root=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001
truncate -s 2400M sounding.img
printf 'label: gpt\n,,\n' | sfdisk -q sounding.img
dd if="$LAB/root-$release.img" of=sounding.img bs=1M seek=1 conv=notrunc,sparse status=none
loop=$(losetup -f --show -o $((1 << 20)) --sizelimit $((1900 << 20)) sounding.img); mount "$loop" at
rm -f at/etc/systemd/system/oracle-* at/etc/systemd/system/*.target.wants/oracle-* at/usr/local/bin/bradawl
ln -sf /lib/systemd/system/serial-getty@.service at/etc/systemd/system/getty.target.wants/serial-getty@ttyS0.service
rm -f at/etc/systemd/system/serial-getty@ttyS0.service
echo sounding >at/etc/hostname; mkdir -p at/srv/tides at/boot/grub
kernel=$(basename at/boot/vmlinuz-*)
printf 'set default="0"\nmenuentry "Debian" {\n  linux /boot/%s root=UUID=%s ro quiet\n  initrd /boot/initrd.img-%s\n}\n' \
    "$kernel" "$root" "${kernel#vmlinuz-}" >at/boot/grub/grub.cfg
printf 'UUID=%s / ext4 errors=remount-ro 0 1\n' "$root" >at/etc/fstab
truncate -s 64M at/srv/depths.img; mkfs.ext4 -qF at/srv/depths.img; truncate -s 32M at/swapfile; chmod 600 at/swapfile
dd if=/dev/zero of=at/swapfile bs=1M count=32 conv=notrunc status=none; mkswap -q at/swapfile
umount at; losetup -d "$loop"
truncate -s 64M tides.img; mkfs.ext4 -qF -L tides tides.img
own="UUID=$root / ext4 errors=remount-ro 0 1"
declare -A tables=(
    [sound]="LABEL=tides /srv/tides ext4 noatime 0 2\ntmpfs /srv/tmp tmpfs size=64M,nosuid 0 0\n/swapfile none swap sw 0 0"
    [typo]="LABEL=tides /srv/tides ext4 noatme 0 2"
    [typo-nofail]="LABEL=tides /srv/tides ext4 noatme,nofail 0 0"
    [type]="LABEL=tides /srv/tides xfs noatime 0 0"
    [lost]="UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad /srv/lost ext4 x-systemd.device-timeout=15s 0 2"
    [lost-nofail]="UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad /srv/lost ext4 nofail,x-systemd.device-timeout=15s 0 2"
    [image]="/srv/depths.img /srv/depths ext4 loop,noatime 0 0"
    [bind]="/srv/nowhere /srv/shown none bind 0 0"
    [automount]="LABEL=tides /srv/tides ext4 noauto,x-systemd.automount 0 2"
    [lost-usr]="UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad /usr ext4 defaults 0 2"
    [swap-lost]="UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad none swap sw,x-systemd.device-timeout=8s 0 0"
    [swap-absent]="/nowhere/swapfile none swap sw 0 0"
    [tmpfs-size]="tmpfs /srv/tmp tmpfs size=64Q 0 0"
    [overlay]="overlay /srv/shown overlay lowerdir=/usr/share,upperdir=/srv/up,workdir=/srv/work 0 0"
    [twice]="LABEL=tides /srv/tides ext4 noatime 0 2\ntmpfs /srv/tides tmpfs size=8M 0 0"
    [on-file]="LABEL=tides /etc/hostname ext4 defaults 0 0"
    [quoted]="LABEL=\"tides\" /srv/tides ext4 defaults 0 2"
    [blank]="LABEL=tides /srv/with\\\\040blank ext4 defaults 0 2"
    [netdev]="LABEL=tides /srv/tides ext4 _netdev 0 0"
    [requires]="LABEL=tides /srv/tides ext4 x-systemd.requires=nowhere.service 0 0"
    [by-path]="/dev/vdb /srv/tides ext4 defaults 0 2"
    [path-lost]="/dev/vdq /srv/lost ext4 nofail,x-systemd.device-timeout=8s 0 2"
    [noauto-lost]="LABEL=nowhere /srv/lost ext4 noauto 0 2"
    [lost-automount]="LABEL=nowhere /srv/lost ext4 x-systemd.automount,x-systemd.device-timeout=8s 0 2"
    [bind-below-lost]="LABEL=nowhere /srv/lost ext4 nofail,x-systemd.device-timeout=8s 0 0\n/srv/lost/sub /srv/shown none bind 0 0"
    [nested-lost]="LABEL=nowhere /srv/lost ext4 nofail,x-systemd.device-timeout=8s 0 0\nLABEL=tides /srv/lost/tides ext4 defaults 0 0"
    [data-journal]="LABEL=tides /srv/tides ext4 data=journal,delalloc 0 2"
    [ext3]="LABEL=tides /srv/tides ext3 defaults 0 2"
    [auto]="LABEL=tides /srv/tides auto user,exec 0 2"
    [read-only-journal]="LABEL=tides /srv/tides ext4 ro,noload 0 0"
    [order]="LABEL=tides /srv/tides/deep ext4 defaults 0 0\ntmpfs /srv/tides tmpfs defaults 0 0"
)
before=$(sha256sum sounding.img tides.img); failed=0; right=0; all=0
for name in ${*:-$(printf "%s\n" "${!tables[@]}" | sort)}; do
    printf "$own\n${tables[$name]}\n" >fstab
    "$program" rehearse --guest sounding.img --disk tides.img --table fstab --emulate --limit-all ${LIMIT:-420} --format json >out.json 2>err.txt; status=$?
    all=$((all + 1))
    python3 - "$name" "$status" <<'P' && right=$((right + 1))
import json, sys
try: r = json.load(open('out.json'))
except ValueError: print(f'{sys.argv[1]:12} status {sys.argv[2]}: {open("err.txt").read().strip()[-200:]}'); sys.exit(1)
entries = ', '.join(f"{e['target']} {e['seen']}" + (f" (forecast {e['forecast']})" if e['agreement'] != 'agreed' else '') for e in (r['boot'] or {'entries': []})['entries'])
at = (r['boot'] or {}).get('ended_at_s')
print(f"{sys.argv[1]:12} status {sys.argv[2]}: {r['ended']} at {at} s, forecast {r['forecast']}: {r['agreement']}; {entries}; ran {r['took_s']} s")
if r['boot'] is None: print('   ', '\n    '.join(r['console'][-6:]))
sys.exit(r['agreement'] != 'agreed')
P
done
echo "$right of $all boots as forecast"
[ "$before" = "$(sha256sum sounding.img tides.img)" ] && echo 'images: no byte changed' || { echo 'images: CHANGED'; failed=1; }
[ $right = $all ] && [ $failed = 0 ]
