#!/bin/bash
# Drafts an entry for each sort of source on loop devices, puts it into a table,
# rehearses it, mounts it with the system's own mount program, and compares the
# options in force with what the draft promised. Needs root and loop devices.
# usage: lab/try-drafts.sh PROGRAM
set -u
modprobe -a vfat exfat 2>/dev/null
program=$(realpath "${1:?usage: lab/try-drafts.sh PROGRAM}")
work=$(mktemp -d /var/tmp/drafts.XXXXXX)
loops=()
failed=0
cleanup() {
    swapoff "$work/swapfile" 2>/dev/null
    grep -o " $work/m/[^ ]*" /proc/self/mountinfo | tac | xargs -r -n1 umount
    for loop in "${loops[@]}"; do losetup -d "$loop"; done
    rm -rf "$work"
}
trap cleanup EXIT
mkdir -p "$work/m"
table="$work/fstab"
printf '# drafts\ntmpfs  %s  tmpfs  size=1M,nosuid,nodev  0  0\n' "$work/m/first" >"$table"

# try NAME FLAGS: the entry that was drafted for $work/m/NAME is mounted.
try() {
    local name=$1 target="$work/m/$1"
    mkdir -p "$target"
    if ! mount -T "$table" "$target"; then
        echo "$name: mount refused it"; failed=1; return
    fi
    local now promised
    now=$(awk -v t="$target" '$5==t{print $6; for(i=7;i<=NF;i++) if($i=="-") print $(i+3)}' /proc/self/mountinfo | tr '\n' ',')
    for promised in $2; do
        case ",$now" in *",$promised,"*) ;; *) echo "$name: $promised is not in force: $now"; failed=1 ;; esac
    done
    echo "$name: mounted: $now"
}

# device NAME MKFS...: a loop device with this file system.
device() {
    local image="$work/$1.img"; shift
    truncate -s 512M "$image"
    "$@" "$image" >/dev/null 2>&1 || return 1
    loop=$(losetup -f --show "$image") || return 1
    loops+=("$loop")
}

for each in "ext4:mkfs.ext4 -q" "xfs:mkfs.xfs -q" "btrfs:mkfs.btrfs -q" "vfat:mkfs.vfat" "exfat:mkfs.exfat"; do
    name=${each%%:*}
    grep -qw "$name" /proc/filesystems || { echo "$name: this kernel has no support, left out"; continue; }
    # shellcheck disable=SC2086
    device "$name" ${each#*:} || { echo "$name: no loop device, left out"; continue; }
    "$program" draft "$loop" "$work/m/$name" --by uuid --for shared --options noatime --into "$table" >"$work/$name.txt" ||
        { echo "$name: draft failed"; cat "$work/$name.txt"; failed=1; continue; }
    try "$name" "rw nosuid nodev noatime"
done
"$program" draft tmpfs "$work/m/memory" --options size=2M --into "$table" >"$work/memory.txt" || failed=1
try memory "rw nosuid nodev size=2048k"
mkdir -p "$work/shown"
"$program" draft "$work/shown" "$work/m/bind" --into "$table" >"$work/bind.txt" || failed=1
try bind "rw"
dd if=/dev/zero of="$work/swapfile" bs=1M count=16 status=none
chmod 600 "$work/swapfile"
mkswap "$work/swapfile" >/dev/null
"$program" draft "$work/swapfile" none --into "$table" >"$work/swap.txt" || { cat "$work/swap.txt"; failed=1; }
if swapon -T /dev/null 2>/dev/null; then :; fi
if swapon "$work/swapfile"; then
    grep -q "$work/swapfile" /proc/swaps && echo "swap: active" || failed=1
else
    echo "swap: swapon refused it"; failed=1
fi
echo "--- the table"
sed "s|$work|WORK|g" "$table"
echo "--- rehearsed"
"$program" rehearse --table "$table" | sed "s|$work|WORK|g"
exit $failed
