#!/bin/sh
# The first program: has initramfs-tools call place once the root is mounted.
if [ -f /scripts/local ]; then
    printf '%s\n' 'mountroot() { local_mount_root; sh /bradawl/place "$rootmnt"; }' >>/scripts/local
fi
exec /init "$@"
