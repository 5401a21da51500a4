#!/usr/bin/env python3
"""Records what this kernel makes of options that stand beside each other.

  lab/record-pairs.py OUT [PROGRAM...]        (root)

Each PROGRAM is a mount command with its arguments before "-t", as one word
("mount" if none is given). Written, one line each, tabs between: type, the
list, kernel/program version, and `-` (refused) or the options that are then in
force, as /proc/self/mountinfo shows them for the mount and for the file system.
"""

import itertools
import os
import platform
import re
import shlex
import subprocess
import sys
import tempfile

TIMES = ["relatime", "noatime", "strictatime", "norelatime", "atime", "nostrictatime"]
# What the catalogue says of lists of two and more, in every order.
LISTS = {
    "ext4": [
        ["data=journal", "delalloc"], ["data=journal", "dioread_nolock"], ["data=journal", "nodelalloc"],
        ["data=ordered", "delalloc"], ["data=journal", "auto_da_alloc"], ["data=writeback", "data=journal"],
        ["norecovery", "ro"], ["norecovery", "rw"], ["noload", "rw"], ["journal_async_commit", "data=ordered"],
        ["journal_async_commit", "data=writeback"], ["grpjquota=aquota.group", "jqfmt=vfsv0"],
        ["usrjquota=aquota.user"], ["usrjquota=aquota.user", "usrquota"], ["barrier=0", "nobarrier"],
        ["commit=5", "commit=30"], ["data=journal", "delalloc", "nodelalloc"], ["acl", "noacl"],
        ["quota", "usrquota"], ["dax", "data=journal"], ["errors=continue", "errors=panic"],
        ["noload", "journal_checksum"], ["noload", "nojournal_checksum"], ["norecovery", "commit=9"], ["norecovery", "commit=5"],
        ["noload", "commit=0"], ["noload", "data_err=abort"], ["noload", "data_err=ignore"], ["noload", "data=ordered"],
        ["noload", "journal_async_commit"], ["noload", "auto_da_alloc"], ["noload", "ro", "commit=9"],
        ["bsddf", "minixdf"], ["grpid", "nogrpid"], ["discard", "nodiscard"], ["lazytime", "nolazytime"],
    ],
    "ext3": [["noload", "commit=9"], ["noload", "commit=5"], ["noload", "data_err=abort"], ["data=journal", "delalloc"], ["norecovery", "rw"], ["noload", "ro"]],
    "xfs": [
        ["noquota", "uquota"], ["norecovery", "ro"], ["norecovery", "rw"], ["inode32", "inode64"],
        ["sunit=64", "noalign"], ["sunit=64"], ["sunit=64", "swidth=128"], ["sunit=64", "swidth=100"],
        ["largeio", "nolargeio"], ["attr2", "noattr2"], ["discard", "nodiscard"], ["filestreams", "inode64"],
        ["wsync", "noatime"], ["allocsize=64k", "allocsize=128k"], ["ikeep", "noikeep"],
    ],
    "btrfs": [
        ["compress", "nodatacow"], ["compress=zstd", "nodatasum"], ["compress-force", "nodatacow"],
        ["nodatacow", "datasum"], ["nodatacow", "datacow"], ["norecovery", "ro"], ["norecovery", "rw"],
        ["nologreplay", "ro"], ["nologreplay", "rw"], ["ssd", "nossd"], ["ssd_spread", "nossd_spread"],
        ["ssd_spread", "nossd"], ["ssd", "ssd_spread"], ["subvol=/", "subvolid=5"], ["subvol=/", "subvolid=256"],
        ["compress=lzo", "compress=zstd"], ["compress=no", "nodatacow"], ["autodefrag", "noautodefrag"],
        ["space_cache", "nospace_cache"], ["space_cache=v2", "nospace_cache"], ["discard", "nodiscard"],
        ["discard=async", "discard=sync"], ["degraded", "rescue=all"], ["clear_cache", "nospace_cache"],
        ["flushoncommit", "noflushoncommit"], ["barrier", "nobarrier"], ["acl", "noacl"],
        ["datasum", "compress"], ["rescue=nologreplay", "ro"], ["rescue=nologreplay", "rw"],
    ],
    "tmpfs": [
        ["quota", "usrquota"], ["usrquota", "grpquota"], ["casefold", "strict_encoding"], ["strict_encoding"],
        ["size=0"], ["size=0", "nr_inodes=0"], ["size=1M", "nr_blocks=100"], ["size=50%", "size=2M"],
        ["inode32", "inode64"], ["huge=always", "huge=never"], ["mode=700", "mode=1777"], ["nr_inodes=0"],
        ["uid=0", "uid=1000"], ["noswap", "size=1M"], ["size=25%"], ["mpol=local", "mpol=default"],
    ],
    "overlay": [
        ["metacopy=on", "redirect_dir=on"], ["metacopy=on", "redirect_dir=off"], ["metacopy=on", "nfs_export=on"],
        ["nfs_export=on"], ["nfs_export=on", "index=off"], ["userxattr", "metacopy=on"],
        ["userxattr", "redirect_dir=on"], ["userxattr", "redirect_dir=nofollow"], ["volatile", "index=on"],
        ["xino=on", "xino=off"],
    ],
    "squashfs": [["errors=panic", "errors=continue"], ["threads=single", "threads=multi"]],
}
FLAGS = [["nosuid", "suid"], ["nodev", "dev"], ["noexec", "exec"], ["ro", "rw"], ["sync", "async"],
         ["noatime", "nodiratime"], ["relatime", "nodiratime"], ["strictatime", "nodiratime"],
         ["nodiratime", "diratime"], ["noexec", "users"], ["exec", "user"], ["suid", "owner"],
         ["dev", "group"], ["mand", "nomand"], ["dirsync", "sync"], ["defaults", "ro"], ["ro", "defaults"],
         ["nosuid", "defaults"], ["noatime", "defaults"], ["iversion", "noiversion"], ["silent", "loud"],
         ["nosymfollow", "symfollow"], ["remount", "ro"], ["user", "nouser"], ["users", "nousers"]]


def make(work, fstype):
    """The source to mount for a type, and options that every list needs."""
    image = f"{work}/{fstype}.img"
    if fstype in ("tmpfs",):
        return fstype, []
    if fstype == "overlay":
        for name in ("low", "up", "work"):
            os.makedirs(f"{work}/{name}", exist_ok=True)
        # On a file system of its own: an overlay's upper directory cannot lie on another overlay.
        subprocess.run(["mount", "-t", "tmpfs", "layers", work + "/up"], check=True)
        return "overlay", [f"lowerdir={work}/low,upperdir={work}/up/up,workdir={work}/up/work"]
    if fstype == "squashfs":
        os.makedirs(f"{work}/sq", exist_ok=True)
        subprocess.run(["mksquashfs", f"{work}/sq", image, "-quiet"], check=True, stdout=subprocess.DEVNULL)
        return image, []
    with open(image, "wb") as file:
        file.truncate((320 if fstype in ("btrfs", "xfs") else 64) << 20)
    force = {"ext4": ["-F", "-q"], "ext3": ["-F", "-q"], "xfs": ["-f", "-q"], "btrfs": ["-f", "-q"]}[fstype]
    subprocess.run([f"mkfs.{fstype}", *force, image], check=True)
    return image, []


def try_list(program, source, needed, fstype, options, target):
    if fstype == "overlay":
        # A volatile one leaves a mark on its directories.
        up = os.path.dirname(target) + "/up"
        for name in ("up", "work"):
            subprocess.run(["rm", "-rf", f"{up}/{name}"], check=True)
            os.makedirs(f"{up}/{name}")
    if source.endswith(".img"):
        # Each list meets the image as it was made.
        subprocess.run(["cp", "--sparse=always", source, source + ".try"], check=True)
        source += ".try"
    command = [*program, "-t", fstype, "-o", ",".join([*needed, *options]), source, target]
    done = subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    if done.returncode != 0:
        return "-"
    with open("/proc/self/mountinfo") as file:
        line = [l.split() for l in file if l.split()[4] == target][-1]
    dash = line.index("-")
    subprocess.run(["umount", target], check=True)
    return f"{line[5]} {line[dash + 3]}"


def main():
    out, programs = sys.argv[1], [shlex.split(p) for p in sys.argv[2:]] or [["mount"]]
    kernel = ".".join(platform.release().split(".")[:2])
    rows = []
    with tempfile.TemporaryDirectory() as work:
        target = work + "/on"
        os.makedirs(target)
        times = [list(p) for n in (1, 2, 3) for p in itertools.permutations(TIMES, n)]
        flags = [list(p) for pair in FLAGS for p in itertools.permutations(pair)]
        lists = {**LISTS, "tmpfs": LISTS["tmpfs"] + times + flags}
        for fstype, all_lists in lists.items():
            try:
                source, needed = make(work, fstype)
            except FileNotFoundError:
                print(f"{fstype}: not made, its program is not here", file=sys.stderr)
                continue
            seen = set()
            for program in programs:
                said = subprocess.run([*program, "--version"], capture_output=True, text=True).stdout
                version = re.search(r"(\d+\.\d+)", said).group(1)
                for options in all_lists:
                    for order in itertools.permutations(options) if options not in times + flags else [options]:
                        if (version, order := tuple(order)) in seen:
                            continue
                        seen.add((version, order))
                        state = try_list(program, source, needed, fstype, list(order), target)
                        rows.append("\t".join([fstype, ",".join(order), f"{kernel}/{version}", state.replace(work, "/w")]))
        subprocess.run(["umount", work + "/up"], stderr=subprocess.DEVNULL)
    with open(out, "w") as file:
        file.write("\n".join(rows) + "\n")
    print(f"{len(rows)} lists")


main()
