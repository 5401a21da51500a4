#!/bin/bash
# Rehearses a table with faults on loop devices: a refused option, a wrong
# type, a journal to be replayed, a device in use; checks that nothing is left
# behind, also when it is killed midway. Needs root.
# usage: lab/try-rehearse.sh PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-rehearse.sh PROGRAM}")
work=$(mktemp -d /var/tmp/rehearse.XXXXXX)
loops=()
failed=0
cleanup() {
    umount "$work/used" 2>/dev/null
    for loop in "${loops[@]}"; do losetup -d "$loop"; done
    rm -rf "$work"
}
trap cleanup EXIT
device() {
    truncate -s 400M "$work/$1.img"; shift
    "$@" "$work/${image:?}.img" >/dev/null 2>&1
    loop=$(losetup -f --show "$work/$image.img") || exit 1
    loops+=("$loop")
}
mkdir "$work/used" "$work/there"
image=a device a mkfs.ext4 -qF; a=$loop
image=b device b mkfs.xfs -q; b=$loop
image=c device c mkfs.ext4 -qF; c=$loop
image=d device d mkfs.btrfs -q; d=$loop
image=n device n true; mkfs.ntfs -QF "$loop" >/dev/null 2>&1; n=$loop
truncate -s 100M "$work/e.img"; mkfs.ext4 -qF "$work/e.img"
truncate -s 400M "$work/x.img"; mkfs.xfs -q "$work/x.img"; { head -c 1M /dev/zero; cat "$work/x.img"; } >"$work/p.img"
mount "$c" "$work/used"
table="$work/fstab"
cat >"$table" <<TABLE
$a       $work/there   ext4   noatme,nofail              0 2
$b       $work/lacking ext4   defaults,nofail            0 2
$a       $work/there   ext4   data=journal,commit=9,nosuid 0 2
$c       $work/used    ext4   noatime                    0 2
$d       $work/there   btrfs  compress=zstd:3,subvol=/   0 0
$d       $work/there   btrfs  subvol=@none,nofail        0 0
tmpfs    $work/there   tmpfs  size=1M,mode=1777          0 0
tmpfs    $work/there   tmpfs  sized=1M                   0 0
$work/there $work/lacking none bind                      0 0
/no/such $work/there   none   bind                       0 0
LABEL=nowhere $work/there xfs nofail                     0 0
$work/e.img $work/there ext4 loop,noatime,nosuid         0 0
$work/p.img $work/lacking xfs loop,offset=1048576        0 0
$work/e.img $work/there xfs loop                         0 0
$n       $work/there   ntfs-3g uid=1000,nofail           0 0
TABLE
sums() { sha256sum "$work"/*.img; }
before=$(cat /proc/self/mountinfo); sum=$(sums)
"$program" rehearse --table "$table" --color always | sed "s|$work|WORK|g"
[ "$before" = "$(cat /proc/self/mountinfo)" ] || { echo "mountinfo differs"; failed=1; }
[ "$sum" = "$(sums)" ] && echo "no byte of a disk has changed" || { echo "a disk was written to"; failed=1; }
for _ in 1 2 3 4 5 6 7 8; do
    "$program" rehearse --table "$table" >/dev/null 2>&1 &
    victim=$!
    sleep "0.0$((RANDOM % 9 + 1))"
    kill -9 $victim 2>/dev/null
    wait $victim 2>/dev/null
done
sleep 0.5
[ "$before" = "$(cat /proc/self/mountinfo)" ] && echo "killed eight times midway: mountinfo is as before" || failed=1
pgrep -f "rehearse --one" && { echo "a process is left"; failed=1; }
losetup -d "$a" && echo "the devices are free" || failed=1
loops=("${loops[@]:1}")
exit $failed
