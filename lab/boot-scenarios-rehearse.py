"""One guest that rehearses with --exact on file systems whose journals wait to be replayed: digests of the disks before and
after, what was in force, thirty kills at random moments, and what is left behind. For run-machine.py with the release of
boot-scenarios-drafts.py; lab/try-exact.sh reads the answer."""
SCRIPT = r'''#!/bin/bash
exec 2>&1 > >(sed 's/^/said /' >/dev/ttyS1)
modprobe dm-snapshot; modprobe loop; modprobe overlay
# What a power cut leaves: the disk as it is while it is written to.
mkfs.ext4 -q -F -L tides /dev/vdb; mkfs.xfs -q -f -L series /dev/vde
mkdir -p /srv/tides /srv/series /srv/sub /srv/img /mnt
for pair in "vdb vdc" "vde vdf"; do
    set -- $pair; mount /dev/$1 /mnt; mkdir /mnt/sub; for n in $(seq 40); do echo $n >/mnt/file$n; done
    sync; for n in $(seq 40); do mv /mnt/file$n /mnt/sub/moved$n; done; fsfreeze -f /mnt; fsfreeze -u /mnt; touch /mnt/late
    dd if=/dev/$1 of=/dev/$2 bs=1M status=none; umount /mnt; wipefs -aq /dev/$1
done
truncate -s 40M /root/a.img; mkfs.ext4 -q -F /root/a.img; udevadm settle
cat >/root/tab <<T
/dev/vdc /srv/tides ext4 noatime,data=ordered,commit=9 0 2
/dev/vdf /srv/series xfs noatime,logbsize=64k 0 0
/srv/tides/sub /srv/sub none bind 0 0
/root/a.img /srv/img ext4 loop,noatime 0 0
/dev/vdc /srv/absent/here ext4 noatme 0 2
T
# Digests take minutes in an emulated machine; copies on other disks are compared.
dd if=/dev/vdc of=/dev/vdd bs=1M status=none; dd if=/dev/vdf of=/dev/vdg bs=1M status=none; cp /root/a.img /root/b.img
same() { cmp -n 50331648 /dev/vdc /dev/vdd && cmp /dev/vdf /dev/vdg && cmp /root/a.img /root/b.img; }
state() { cat /proc/self/mountinfo /proc/swaps; ls /sys/block; for l in /sys/block/loop*/loop/backing_file; do cat $l 2>/dev/null; done; lsns -t mnt -n 2>/dev/null | wc -l; }
dd if=/dev/vdc bs=1K skip=1 count=1 status=none | od -A d -t x1 -j 96 -N 4 | head -1
wipefs -aq /dev/vdd /dev/vdg 2>/dev/null; dd if=/dev/vdc of=/dev/vdd bs=1M status=none; dd if=/dev/vdf of=/dev/vdg bs=1M status=none; was=$(state)
bradawl rehearse --table /root/tab --exact
same && echo "OK no byte of a disk has changed" || echo "WRONG a disk was written to"
bradawl rehearse --table /root/tab >/dev/null
same && echo "OK nor without a layer" || echo "WRONG a disk was written to without a layer"
for n in $(seq 30); do
    bradawl rehearse --table /root/tab $([ $((n % 3)) = 0 ] || echo --exact) >/dev/null 2>&1 & p=$!
    sleep 0.$((RANDOM % 10))$((RANDOM % 10)); kill -9 $p 2>/dev/null; wait $p 2>/dev/null
done
sleep 6
[ "$was" = "$(state)" ] && echo "OK killed thirty times: mounts, swap, loops, mappings, namespaces as before" || { echo "WRONG something is left"; diff <(echo "$was") <(state); }
same && echo "OK and the disks" || echo "WRONG a disk was written to by one that was killed"
pgrep -a bradawl && echo "WRONG a process is left"
# The table is the host's own: what it writes is tried before.
cp /etc/fstab /root/fstab.was; cat /root/tab | head -2 >>/etc/fstab
bradawl audit --rehearse | tail -30
bradawl mend --edit '/srv/series: +prjquota' --write | grep -E 'tried|worse|written|Written'
'''
UNIT = '[Unit]\nBefore=oracle-ok.service\nAfter=local-fs.target\n[Service]\nType=oneshot\nExecStart=/bin/bash /etc/rehearse.sh\n'
SCENARIOS = [dict(id='rehearse', fstab='', disks='bcepqr', limit=1500, files={
    '/etc/systemd/system/oracle-watchdog.service': '[Service]\nExecStart=/bin/true\n',
    '/etc/rehearse.sh': SCRIPT, '/etc/systemd/system/rehearse.service': UNIT,
    '/etc/systemd/system/multi-user.target.d/rehearse.conf': '[Unit]\nWants=rehearse.service\n'})]
