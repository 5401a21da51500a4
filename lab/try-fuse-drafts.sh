#!/bin/bash
# The options that drafts give to programs behind FUSE, for each use, taken by the real programs: in root directories that have
# them (Debian 12 and 13 with mergerfs, gocryptfs, bindfs, s3fs, unionfs-fuse, squashfuse, fuse-overlayfs, davfs2, rclone, sshfs).
# What names a file of the host is left out; the recorder names its own. Root, and roots made by debootstrap.
# usage: lab/try-fuse-drafts.sh PROGRAM ROOT...
set -eu
program=$1; shift
here=$(cd "$(dirname "$0")" && pwd)
lists=$(mktemp)
for fstype in fuse.mergerfs fuse.gocryptfs fuse.bindfs fuse.s3fs fuse.unionfs fuse.squashfuse fuse.fuse-overlayfs davfs rclone; do
    "$program" options "$fstype" --kernel 6.12 --format json | python3 -c '
import json, re, sys
named = re.compile(r"^(passfile|passwd_file|config|url|\w+dir|x-systemd\.\S+)=")
for one in json.load(sys.stdin)["recommended"]:
    given = [o for o in one["options"].split(",") if not named.match(o)]
    print(sys.argv[1], "server", ",".join(given) or "defaults", sep="\t")' "$fstype" >>"$lists"
done
sort -u -o "$lists" "$lists"
for root in "$@"; do
    cp "$here/record-helpers.py" "$root/record.py"; cp "$lists" "$root/lists"
    unshare -mpf bash -c "mount --make-rprivate /; mount --rbind /dev $root/dev; HERE=1 LISTS=/lists REPORT=/report unshare -n chroot $root python3 /record.py" </dev/null
    python3 -c '
import json, sys
rows = [json.loads(line) for line in open(sys.argv[1]) if line.startswith("{")]
wrong = [r for r in rows if not r["accepted"]]
for r in wrong: print(r["type"], r["options"], r["said"])
open_to = sum("allow_other" in r["super_opts"] for r in rows)
print(len(rows) - len(wrong), "of", len(rows), "drafted lists taken,", open_to, "of them for others than root")' "$root/report"
done
rm -f "$lists"
