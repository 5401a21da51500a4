#!/bin/bash
# The same host looked at by different eyes: root, an ordinary user, without the
# device manager's files, without /sys, as a tree with and without its disks. The
# verdicts may say less, and never the contrary: an all-clear beside a stop.
# usage: lab/record-guest.py LAB PROGRAM --try lab/try-eyes.sh
set -u
program=$1
work=/var/tmp/eyes; mkdir -p "$work" /srv/grain /srv/silo /srv/lost
chmod 755 "$work"; cp "$program" "$work/program"; chmod 755 "$work/program"; p=$work/program
failed=0
# verdict of one eye: outcome, the exit status, and the sentence.
look() { "$@" audit --format json 2>/dev/null | python3 -c '
import json, sys
h = json.load(sys.stdin)["hosts"][0]; print(h["outcome"], "|", h["verdict"])' 2>/dev/null || echo "none | refused"; }
first() { "$@" 2>/dev/null | head -3 | tr '\n' ' '; }
eyes() {
    name=$1
    echo "== $name"
    root=$(first "$p" audit)
    user=$(first setpriv --reuid 65534 --regid 65534 --clear-groups "$p" audit)
    noudev=$(first unshare -m sh -c "mount -t tmpfs tmpfs /run/udev; mount -t tmpfs tmpfs /dev/disk; exec $p audit")
    nosys=$(first unshare -m sh -c "umount -l /sys; exec $p audit")
    tree=$(first unshare -m sh -c "mkdir -p $work/t; mount --bind / $work/t; exec $p audit $work/t")
    live=$(first unshare -m sh -c "mkdir -p $work/t; mount --bind / $work/t; exec $p audit $work/t --live-devices")
    for eye in root user noudev nosys tree live; do
        printf '%-7s %s\n' "$eye" "${!eye}"
        # What root knows to stop is never sound to another; what root knows to
        # be sound never certainly stops.
        case "$root" in
            *"will stop"*) case "${!eye}" in *"everything in place"*) case "${!eye}" in *"as far as is known"*) ;; *) echo "CONTRADICTION"; failed=1 ;; esac ;; esac ;;
            *"everything in place"*) case "${!eye}" in *"boot will stop"*|*"boot will wait"*) echo "CONTRADICTION"; failed=1 ;; esac ;;
        esac
    done
}
own=$(cat /etc/fstab)
printf '%s\nLABEL=grain /srv/grain ext4 defaults 0 2\nLABEL=silo /srv/silo xfs defaults 0 0\nLABEL=reserve none swap sw 0 0\n' "$own" >/etc/fstab
eyes "all there"
printf '%s\nLABEL=grian /srv/grain ext4 defaults 0 2\n' "$own" >/etc/fstab
eyes "a label mistyped"
printf '%s\nLABEL=grain /srv/grain xfs defaults 0 0\n' "$own" >/etc/fstab
eyes "the wrong type"
printf '%s\nUUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad /srv/lost ext4 nofail 0 2\n' "$own" >/etc/fstab
eyes "a lost disk with nofail"
printf '%s\n/dev/ubdb /srv/grain ext4 noatme 0 2\n' "$own" >/etc/fstab
eyes "an option mistyped"
printf '%s\n' "$own" >/etc/fstab
exit $failed
