#!/bin/bash
# Drafts entries and runs every step as it is printed, with the host's own
# programs: file systems made, a disk partitioned, data moved, files, images and
# layers. In a mount namespace of its own, with a copy of /etc in its place. Needs root and loop devices.
# usage: lab/try-steps.sh PROGRAM
set -u
if [ -z "${INSIDE-}" ]; then INSIDE=1 exec unshare -m "$0" "$@"; fi
program=$(realpath "${1:?usage: lab/try-steps.sh PROGRAM}")
work=$(mktemp -d /var/tmp/steps.XXXXXX)
loops=()
failed=0
cleanup() {
    umount /etc
    awk '{print $5}' /proc/self/mountinfo | grep "^$work/m" | tac | xargs -r -n1 umount
    swapoff "${loops[@]}" 2>/dev/null
    for loop in "${loops[@]}"; do losetup -d "$loop"; done
    rm -rf "$work"
}
trap cleanup EXIT
modprobe -a loop vfat exfat ntfs3 overlay 2>/dev/null
mkdir -p "$work/m"
cp -a /etc "$work/etc"
printf '# steps\ntmpfs  %s  tmpfs  size=1M,nosuid,nodev  0  0\n' "$work/m/first" >"$work/etc/fstab"
mount --bind "$work/etc" /etc

# disk SIZE: an empty loop device, in $loop.
disk() {
    truncate -s "$1" "$work/disk-${#loops[@]}.img"
    loop=$(losetup -P -f --show "$work/disk-${#loops[@]}.img") || return 1
    loops+=("$loop")
}

# steps NAME SOURCE TARGET FLAGS...: drafts, writes, and runs what is printed.
# Left out is what speaks to an init system, and this program's own forecast.
steps() {
    local name=$1; shift
    # Stands for a disk here: named as one.
    case $1 in /dev/loop*) set -- "$@" --by uuid --even-if-worse ;; esac
    if ! "$program" draft "$@" --into /etc/fstab --format json >"$work/$name.json" 2>"$work/$name.err"; then
        echo "$name: refused: $(cat "$work/$name.err")"; failed=1; return
    fi
    python3 - "$work/$name.json" >"$work/$name.sh" <<'P'
import json, sys
d = json.load(open(sys.argv[1]))
for step in d['before'] + d['after']:
    run = step['run']
    if run and not run.startswith(('systemctl', 'journalctl', 'bradawl', 'find /proc', 'udevadm')):
        print(run)
    if run and 'sfdisk' in run:
        # No device manager here makes the node of the partition.
        print('for p in /sys/class/block/loop*p*; do [ -e /dev/${p##*/} ] || mknod /dev/${p##*/} b $(tr : " " <$p/dev); done')
P
    if bash -e -x "$work/$name.sh" >"$work/$name.log" 2>&1; then
        echo "$name: $(wc -l <"$work/$name.sh") steps ran; $(grep -F " ${2/none/swap} " /etc/fstab | tail -1 | tr -s ' ' | sed "s|$work|WORK|g")"
    else
        echo "$name: a step failed"; tail -5 "$work/$name.log" | sed "s|$work|WORK|g"; failed=1
    fi
}

# A Btrfs with a subvolume that the entry names: made before it is named.
if grep -qw btrfs /proc/filesystems && disk 200M; then
    steps subvolume "$loop" "$work/m/subvolume" --type btrfs --options subvol=@tides/raw
fi

for each in ext4:100M xfs:400M btrfs:200M vfat:50M exfat:50M ntfs3:50M; do
    type=${each%%:*}
    # Where a kernel does not have a type the steps are not printed at all.
    grep -qw "$type" /proc/filesystems || { echo "$type: this kernel has no support, left out"; continue; }
    command -v "mkfs.${type%3}" >/dev/null || { echo "$type: its program is not installed, left out"; continue; }
    disk "${each#*:}" || { echo "$type: no loop device, left out"; continue; }
    steps "$type" "$loop" "$work/m/$type" --type "$type"
    mountpoint -q "$work/m/$type" || { echo "$type: not mounted"; failed=1; }
done
disk 64M && steps swap "$loop" none
if ! command -v sfdisk >/dev/null; then
    echo "partition: sfdisk is not installed, left out"
elif [ "$(cat /sys/module/loop/parameters/max_part 2>/dev/null || echo 0)" = 0 ]; then
    echo "partition: this kernel has no partitions on loop devices, left out"
elif disk 300M; then
    steps partition "$loop" "$work/m/partition" --partition
    mountpoint -q "$work/m/partition" || { echo "partition: not mounted"; failed=1; }
fi

# data with owners, links, holes and attributes is moved
full=$work/m/full
mkdir -p "$full/sub"
echo tide >"$full/a"; ln "$full/a" "$full/sub/hard"; ln -s a "$full/soft"
truncate -s 5M "$full/holes"; chown 1:2 "$full/sub"; chmod 2750 "$full/sub"
setfattr -n user.tide -v high "$full/a" 2>/dev/null
listing() { (cd "$1" && find . -mindepth 1 ! -name lost+found -printf '%p %m %U %G %n %l %TY-%Tm-%Td\n' | sort); }
listing "$full" >"$work/before.txt"
if disk 100M && mkfs.ext4 -q "$loop"; then
    steps move "$loop" "$full" --move
    listing "$full" >"$work/after.txt"
    mountpoint -q "$full" || { echo "move: not mounted"; failed=1; }
    diff "$work/before.txt" "$work/after.txt" && echo "move: all is there: $(wc -l <"$work/after.txt") names"
    [ "$(stat -c %b "$full/holes")" -lt 100 ] || { echo "move: the hole was filled"; failed=1; }
    getfattr -n user.tide "$full/a" >/dev/null 2>&1 || echo "move: attributes not looked at"
fi

echo conf >"$work/conf"
steps file "$work/conf" "$work/m/conf"
grep -q conf "$work/m/conf" || { echo "file: not shown"; failed=1; }
truncate -s 20M "$work/disk.img"; mkfs.ext4 -q -F "$work/disk.img"
steps image "$work/disk.img" "$work/m/image"
mkdir -p "$work/lower"; echo low >"$work/lower/low"
if grep -qw overlay /proc/filesystems; then
    mkdir -p "$work/layers"; mount -t tmpfs tmpfs "$work/layers"
    steps overlay overlay "$work/m/overlay" --options "lowerdir=$work/lower,upperdir=$work/layers/u,workdir=$work/layers/w"
    umount "$work/m/overlay" 2>/dev/null; umount "$work/layers" 2>/dev/null
fi
steps memory tmpfs "$work/m/memory" --options size=2M

# what cannot be done is refused
for refused in "$work/conf none" "/dev/none $work/m/x" "overlay $work/m/y"; do
    # shellcheck disable=SC2086
    "$program" draft $refused >/dev/null 2>&1 && { echo "not refused: $refused"; failed=1; }
done
exit $failed
