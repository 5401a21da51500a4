#!/bin/bash
# Runs inside the guest of build-early.sh: makes a mirror, a stripe and a volume group on its six empty disks.
set -ex
modprobe -a raid0 raid1 dm-mod
mdadm --create /dev/md/raid --run --metadata=1.2 --level=1 --raid-devices=2 --homehost=sounding --name=raid --uuid=5d0c1f0e:6a354b1c:9a550f6f:1f1ad001 /dev/ubdb /dev/ubdc
mdadm --create /dev/md/swell --run --metadata=1.2 --level=0 --raid-devices=2 --homehost=sounding --name=swell --uuid=5d0c1f0e:6a354b1c:9a550f6f:1f1ad002 /dev/ubdd /dev/ubde
mkfs.ext4 -q -L raid -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a500a /dev/md/raid
mkfs.ext4 -q -L swell -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a600a /dev/md/swell
pvcreate -q /dev/ubdf /dev/ubdg
vgcreate -q hold-b /dev/ubdf /dev/ubdg
lvcreate -q -W n -Z n -l 5 -n pair hold-b /dev/ubdf
lvcreate -q -W n -Z n -l 12 -n both hold-b
vgmknodes hold-b || true
mkfs.ext4 -q -L pair -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a700a /dev/mapper/hold--b-pair
mkfs.ext4 -q -L both -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a800a /dev/mapper/hold--b-both
mdadm --wait /dev/md/raid || true
sync; lvs; cat /proc/mdstat
mdadm --stop /dev/md/raid; mdadm --stop /dev/md/swell
vgchange -an hold-b
echo made
