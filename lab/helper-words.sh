#!/bin/sh
# The words that the programs of NFS, SMB, NTFS and sshfs hold, a type and a word a line, for option-lists.py: what they take
# is among them. binutils, and the programs.
words() { # TYPE FILE...
    type=$1; shift
    strings -a "$@" | sed 's/[= %].*//' | grep -E '^[A-Za-z][A-Za-z0-9_.-]{1,24}$' | grep -vE '^(lib|_|str|mem|std|get|set|print|fprint|GLIBC|malloc|calloc|realloc)' | sort -u | sed "s/^/$type	/"
}
words nfs /sbin/mount.nfs
words cifs /sbin/mount.cifs
words ntfs-3g /bin/ntfs-3g
words fuse.sshfs "$(command -v sshfs)" "$(find /lib /usr/lib -name 'libfuse3.so.3' | head -1)"
