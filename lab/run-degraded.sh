#!/bin/bash
# Runs inside the guest of build-early.sh: starts the mirror with one of its halves, so that it knows itself degraded.
set -ex
mdadm --stop --scan
mdadm --assemble --run /dev/md/raid /dev/ubdb
mount /dev/md/raid /mnt; echo tide > /mnt/tide; umount /mnt
cat /proc/mdstat; mdadm --detail /dev/md/raid | tail -12
mdadm --stop /dev/md/raid
echo made
