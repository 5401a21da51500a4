#!/bin/bash
# Every packed image of a directory in the formats of virtual machines: what devices and audit say of it has to be what they
# say of the plain one; and packed with xz, zstd and gzip in pieces. Needs qemu-utils, zstd, xz-utils, tabix (bgzip).
# usage: lab/try-disk-formats.sh IMAGES [PROGRAM]
set -u
images=${1:?usage: lab/try-disk-formats.sh IMAGES [PROGRAM]}; program=$(realpath "${2:-target/release/bradawl}")
work=$(mktemp -d -p /dev/shm); trap 'rm -rf "$work"' EXIT
cd "$work" || exit 1
same=0 differs=0; mkdir plain other
said() { (cd "$1" && "$program" devices disk.img --format json 2>&1; "$program" audit disk.img 2>&1); }
for packed in "$images"/*.zst; do
    zstd -qdf "$packed" -o plain/disk.img || continue
    # Formats hold whole sectors.
    truncate -s %512 plain/disk.img
    said plain >wanted
    for how in 'xz -c -T0 --block-size=1MiB' 'pzstd -q -c' 'bgzip -c' 'qcow2' 'qcow2 -c' 'vmdk -o subformat=streamOptimized' 'vpc -o force_size=on' 'vhdx' 'vdi'; do
        rm -f other/disk.img
        # shellcheck disable=SC2086 # a format with its options
        case $how in
            *-c*MiB | pzstd* | bgzip*) $how plain/disk.img > other/disk.img ;;
            *) qemu-img convert -f raw -O $how plain/disk.img other/disk.img 2>/dev/null || continue ;;
        esac
        said other >got
        # Some round the size up.
        if diff -q <(grep -v '"size"' wanted) <(grep -v '"size"' got) >/dev/null; then same=$((same + 1)); else differs=$((differs + 1)); echo "$(basename "$packed") as $how:"; diff wanted got | head -6; fi
    done
done
echo "$same alike, $differs not"
[ "$differs" = 0 ]
