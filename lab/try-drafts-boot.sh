#!/bin/bash
# Runs inside the guest of boot-scenarios-drafts.py. First boot: drafts an entry for each sort of source, runs the printed
# steps, and reboots. Second boot: says what is mounted of it. Everything said goes to the second serial port.
exec 2>&1 > >(sed 's/^/said /' >/dev/ttyS1)
if [ -e /var/drafted ]; then
    while read -r name target; do
        if [ "$target" = none ]; then grep -q "$(cat "/var/draft-$name.path")" /proc/swaps && echo "$name after the boot: active" || echo "$name after the boot: NOT ACTIVE"
        else line=$(findmnt -no FSTYPE,OPTIONS "$target") && echo "$name after the boot: $line" || echo "$name after the boot: NOT MOUNTED"; fi
    done </var/drafted
    echo "moved log: $(ls /var/log | wc -l) names, old one gone: $([ -e /var/log.old ] && echo no || echo yes)"
    echo "owner of vfat: $(stat -c %u:%a /srv/vfat)"
    bradawl audit 2>&1 | head -3
    exit
fi
useradd -M -u 1004 tide
cp -a /etc/fstab /var/fstab.before
# draft NAME TARGET ARGUMENTS...
draft() {
    local name=$1 target=$2; shift 2
    if ! bradawl draft "$@" --into /etc/fstab --format json >/var/draft-$name.json 2>/var/draft-$name.err; then
        echo "$name: refused: $(tail -3 /var/draft-$name.err | tr '\n' ' ') $(jq -c '[.boot, .added[0].findings] // .' /var/draft-$name.json 2>/dev/null | head -c 600)"; return
    fi
    # The guest's root disk has little room: a small swap file will do.
    jq -r '(.before + .after)[].run // empty' /var/draft-$name.json | sed 's/--want [0-9]*G/--want 64M/' >/var/draft-$name.sh
    if timeout 120 bash -e -x /var/draft-$name.sh >/var/draft-$name.log; then
        echo "$name: $(wc -l </var/draft-$name.sh) steps ran; $(tail -1 /etc/fstab | tr -s ' ')"
        echo "$name $target" >>/var/drafted
        [ "$target" = none ] && awk 'NR>1{print $1}' /proc/swaps | tail -1 >/var/draft-$name.path
    else
        echo "$name: A STEP FAILED: $(tail -3 /var/draft-$name.log | tr '\n' ' ')"
    fi
}
draft ext4 /srv/ext4 /dev/vdb /srv/ext4
draft xfs /srv/xfs /dev/vdc /srv/xfs --type xfs
draft btrfs /srv/btrfs /dev/vdd /srv/btrfs --type btrfs --options subvol=@tides/raw
draft vfat /srv/vfat /dev/vde /srv/vfat --type vfat --owner tide
draft exfat /srv/exfat /dev/vdf /srv/exfat --type exfat
draft ntfs /srv/ntfs /dev/vdg /srv/ntfs --type ntfs3
draft ntfs-3g /srv/ntfs /dev/vdg /srv/ntfs --type ntfs-3g
pvcreate -q /dev/vdh && vgcreate -q tides /dev/vdh && lvcreate -q -n log-raw -L 340M tides && udevadm settle
draft lvm /srv/lvm /dev/tides/log-raw /srv/lvm --type xfs
draft swap none /dev/vdi none
draft swap-file none /swapfile none
draft partition /srv/part /dev/vdj /srv/part --partition
draft move /var/log /dev/vdk /var/log --move
mkdir -p /srv/shown; draft bind /srv/bind /srv/shown /srv/bind
draft memory /srv/memory tmpfs /srv/memory --options size=8M
mkdir -p /srv/lower; draft overlay /srv/over overlay /srv/over --options lowerdir=/srv/lower,upperdir=/srv/layers/u,workdir=/srv/layers/w
echo hull >/srv/conf; draft file /etc/tides.conf /srv/conf /etc/tides.conf
truncate -s 64M /srv/disk.img && mkfs.ext4 -q /srv/disk.img; draft image /srv/image /srv/disk.img /srv/image
bradawl audit 2>&1 | head -3
cat /etc/fstab
# The scenario's own table would be put back by the initramfs.
chattr +i /etc/fstab; sync; echo "second boot"; sleep 1; reboot -f
