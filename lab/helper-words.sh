#!/bin/sh
# The words that the programs of NFS, SMB, NTFS and FUSE hold, a type and a word a line, for option-lists.py: what they take
# is among them. binutils, and the programs.
words() { # TYPE FILE...
    type=$1; shift
    strings -a "$@" | sed 's/[= %].*//' | grep -E '^[A-Za-z][A-Za-z0-9_.-]{1,24}$' | grep -vE '^(lib|_|str|mem|std|get|set|print|fprint|GLIBC|malloc|calloc|realloc)' | sort -u | sed "s/^/$type	/"
}
words nfs /sbin/mount.nfs
words cifs /sbin/mount.cifs
words ntfs-3g /bin/ntfs-3g
words fuse.sshfs "$(command -v sshfs)" "$(find /lib /usr/lib -name 'libfuse3.so.3' | head -1)"
libraries=$(find /lib /usr/lib -name 'libfuse3.so.3' -o -name 'libfuse.so.2')
for program in mergerfs bindfs s3fs unionfs squashfuse fuse-overlayfs; do
    words "fuse.$program" "$(command -v "$program")" $libraries | grep -P '\t[a-z][a-z0-9_.-]{2,}$'
done
words davfs /sbin/mount.davfs | grep -P '\t[a-z]'
# Those written in Go say their words themselves.
said() { sed -n 's/^ *\(-[a-z], \)\?--\([A-Za-z0-9-]*\).*/\2/p' | sort -u | sed "s/^/$1	/"; }
gocryptfs -hh 2>&1 | said fuse.gocryptfs
