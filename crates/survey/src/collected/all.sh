echo "bradawl-collected 1 $how"
echo "v uid $(id -u)"; echo "v time $(date +%s)"; echo "v machine $(uname -m)"
page=$(getconf PAGESIZE 2>/dev/null) || page=$(awk '/^KernelPageSize/ { print $2 * 1024; exit }' /proc/self/smaps 2>/dev/null)
echo "v page $page"
kernel=$(uname -r)
for f in /etc/fstab /etc/os-release /usr/lib/os-release /etc/hostname /etc/passwd /etc/group /etc/selinux/config /etc/crypttab \
    /etc/mdadm/mdadm.conf /etc/mdadm.conf /etc/initramfs-tools/initramfs.conf /proc/cmdline /proc/self/mountinfo \
    /proc/swaps /proc/meminfo /proc/filesystems /proc/1/comm /proc/sys/kernel/hostname /proc/sys/kernel/osrelease \
    /proc/sys/vm/swappiness /sys/power/state /sys/module/zswap/parameters/enabled /sys/kernel/security/lsm /usr/lib/systemd/system.conf \
    /run/systemd/system.conf /etc/systemd/system.conf; do get "$f"; done
for f in /etc/fstab /proc/filesystems /proc/modules /run/systemd/container /run/.containerenv /.dockerenv \
    /run/openrc /sbin/openrc /etc/inittab /etc/init.d/rcS /run/systemd/generator /usr/bin/dracut \
    /usr/sbin/dracut /usr/lib/dracut/dracut-functions.sh /usr/bin/mkinitcpio /usr/sbin/mkinitramfs /sbin/mkinitramfs \
    /usr/bin/mkinitramfs /etc/mkinitcpio.conf /etc/dracut.conf \
    /etc/mdadm/mdadm.conf /etc/mdadm.conf /etc/initramfs-tools/initramfs.conf; do st "$f"; done
for f in /proc/1/exe /sbin/init /etc/init /bin/init; do real "$f"; st "$f"; done
for f in /etc/inittab /etc/init.d/rcS; do get "$f"; done
for d in /usr/lib /usr/lib/systemd /lib/systemd /usr/lib64/systemd /usr/lib/*-linux-gnu*/systemd /lib/modules; do
    names "$d" 'linux-gnu\|^libsystemd-shared-\|^[0-9]'
done
for d in /usr/lib/systemd /run/systemd /etc/systemd; do
    names "$d/system.conf.d"
    for f in "$d"/system.conf.d/*.conf; do [ -f "$f" ] && get "$f"; done
done
for d in /run/systemd /etc/systemd /usr/local/lib/systemd /usr/lib/systemd; do
    get "$d/zram-generator.conf"; names "$d/zram-generator.conf.d"
    for f in "$d"/zram-generator.conf.d/*.conf; do [ -f "$f" ] && get "$f"; done
done
names /etc/initramfs-tools/conf.d
names /sys/kernel/mm/hugepages
for f in /etc/initramfs-tools/conf.d/*; do [ -f "$f" ] && { st "$f"; get "$f"; }; done
for d in /usr/local/lib/systemd/system /run/systemd/system /etc/systemd/system; do
    names "$d"
    for f in "$d"/*.mount "$d"/*.automount "$d"/*.swap "$d"/systemd-fsck*.service "$d"/systemd-remount-fs.service \
        "$d"/local-fs.target "$d"/remote-fs.target "$d"/swap.target "$d"/sysinit.target "$d"/basic.target "$d"/multi-user.target; do
        if [ -e "$f" ] || [ -L "$f" ]; then real "$f"; get "$f"; fi
    done
    for t in "$d"/*.mount.d "$d"/*.automount.d "$d"/*.swap.d "$d"/*.device.d "$d"/*.target.d "$d"/systemd-fsck*.service.d \
        "$d"/systemd-remount-fs.service.d; do
        [ -d "$t" ] || continue
        names "$t"; for f in "$t"/*.conf; do [ -f "$f" ] && get "$f"; done
    done
    for t in local-fs remote-fs swap sysinit basic multi-user; do names "$d/$t.target.wants"; names "$d/$t.target.requires"; done
done
names /etc/systemd/system/timers.target.wants
# What the boot loader will start.
for f in /boot/grub/grub.cfg /boot/grub2/grub.cfg /boot/grub/grubenv /boot/grub2/grubenv /boot/extlinux/extlinux.conf \
    /extlinux/extlinux.conf /boot/syslinux/syslinux.cfg /boot/firmware/cmdline.txt /boot/firmware/config.txt /boot/cmdline.txt \
    /boot/config.txt; do [ -f "$f" ] && get "$f"; done
# Of what the kernel was built with, that which decides about mounts.
for f in /proc/config.gz "/boot/config-$kernel" "/lib/modules/$kernel/config"; do
    [ -r "$f" ] || continue
    built=$(case $f in (*.gz) gzip -dc "$f" ;; (*) cat "$f" ;; esac 2>/dev/null | grep -E '@KEPT@')
    [ -n "$built" ] || continue
    row f "$f"; printf ' '; printf '%s\n' "$built" | enc; echo
    break
done
# Of the lists of packages, those whose programs mount a type.
for f in /var/lib/dpkg/status /lib/apk/db/installed; do
    [ -r "$f" ] || continue
    row f "$f"; printf ' '
    awk 'BEGIN { RS = ""; FS = "\n" } /(^|\n)(Package: |P:)(@PACKAGES@)\n/ {
        for (n = 1; n <= NF; n++) if ($n ~ /^(Package: |Status: |Version: |P:|V:)/) print $n
        print ""
    }' "$f" 2>/dev/null | enc; echo
done
names /var/lib/pacman/local '^\(@FOLDERS@\)-[0-9]'
for d in /boot/loader /efi/loader /boot/efi/loader; do
    [ -d "$d/entries" ] || continue
    [ -f "$d/loader.conf" ] && get "$d/loader.conf"
    names "$d/entries"; for f in "$d"/entries/*.conf; do [ -f "$f" ] && get "$f"; done
done
# What the running manager says of mounts and swap.
if [ -d /run/systemd/system ] && command -v systemctl >/dev/null 2>&1; then
    row f /run/systemd/systemctl-show; printf ' '
    SYSTEMD_COLORS=0 systemctl show --no-pager \
        --property=Id,LoadState,ActiveState,NeedDaemonReload,What,Where,Type,Options,Requires,After,DropInPaths \
        -- '*.mount' '*.automount' '*.swap' local-fs.target remote-fs.target swap.target sysinit.target multi-user.target graphical.target \
        emergency.target rescue.target 2>/dev/null | head -c 8388608 | enc; echo
fi
# What the boot did with them, as the journal keeps it.
if [ -d /run/systemd/system ] && command -v journalctl >/dev/null 2>&1; then
    row f /run/systemd/journal-jobs; printf ' '
    journalctl --quiet --no-pager --output=export --boot=0 \
        --output-fields=UNIT,JOB_ID,JOB_TYPE,JOB_RESULT,MESSAGE_ID,MESSAGE,SYSLOG_IDENTIFIER,_SOURCE_MONOTONIC_TIMESTAMP \
        MESSAGE_ID=7d4958e842da4a758f6c1cdc7b36dcc5 MESSAGE_ID=39f53479d3a045ac8e11786248231fbf \
        MESSAGE_ID=be02cf6855d2428ba40df7e9d022f03d + _TRANSPORT=kernel SYSLOG_IDENTIFIER=systemd \
        + _TRANSPORT=kernel SYSLOG_IDENTIFIER=systemd-fstab-generator 2>/dev/null | head -c 4194304 | enc; echo
fi
# Programs that entries name behind FUSE.
awk '$1 !~ /^#/ && $3 ~ /^fuse[.][A-Za-z0-9_.-]+$/ { print substr($3, 6) }
    $1 ~ /^[A-Za-z0-9_.-]+#/ && $3 ~ /^fuse3?$/ { sub(/#.*/, "", $1); print $1 }' /etc/fstab 2>/dev/null | sort -u |
    while read -r p; do for d in /usr/local/sbin /usr/local/bin /sbin /usr/sbin /bin /usr/bin; do st "$d/$p"; done; done
for d in /sbin /usr/sbin /bin /usr/bin; do real "$d"; names "$d" '^sh$\|^mount[.]\|^fsck[.]\|^quota'; done
for d in /lib/modules /usr/lib/modules; do
    f=$d/$kernel/modules.alias
    if [ -r "$f" ]; then row f "$f"; printf ' '; grep '^alias fs-' "$f" | enc; echo; else st "$f"; fi
done
# Block devices: what the kernel says of each in one piece, then their bytes.
st /sys/class/block; names /sys/class/block
set --
for d in /sys/class/block/*; do
    [ -e "$d" ] || continue
    real "$d"
    for f in uevent dev size ro removable partition start queue/logical_block_size queue/rotational device/vendor \
        device/model serial device/serial dm/name loop/backing_file loop/offset loop/sizelimit; do set -- "$@" "$d/$f"; done
    [ -n "$(ls "$d/slaves" 2>/dev/null)" ] && names "$d/slaves"
done
printf 'g '; [ $# -gt 0 ] && grep -Hs '' "$@" | enc; echo
printf 'u '; grep -Hs '' /run/udev/data/b* | enc; echo
printf 'k '; find /dev -maxdepth 2 -type d ! -path '/dev/fd*' ! -path '/dev/pts*' ! -path '/dev/shm*' 2>/dev/null |
    while IFS= read -r d; do echo "$d:"; ls -lA "$d" 2>/dev/null; done | enc; echo
for d in /dev/disk/by-uuid /dev/disk/by-id; do st "$d"; done
num() { od -An -v -tu1 -j "$2" -N "$3" "$1" 2>/dev/null | awk '{ for (i = NF; i > 0; i--) n = n * 256 + $i } END { printf "%d", n }'; }
# Where FAT and exFAT keep the label: the root folder.
root_folder() {
    kind=$(dd if="$1" bs=512 count=1 2>/dev/null | tr -cd 'A-Z0-9')
    case $kind in
        *EXFAT*) shift_by=$(num "$1" 108 1); per=$(num "$1" 109 1); heap=$(num "$1" 88 4); first=$(num "$1" 96 4)
            echo $(((heap + ((first - 2) << per)) << shift_by)) ;;
        *FAT*) size=$(num "$1" 11 2); per=$(num "$1" 13 1); kept=$(num "$1" 14 2); fats=$(num "$1" 16 1)
            long=$(num "$1" 22 2); first=2
            [ "$long" = 0 ] && { long=$(num "$1" 36 4); first=$(num "$1" 44 4); }
            echo $(((kept + fats * long + (first - 2) * per) * size)) ;;
    esac
}
for d in /sys/class/block/*; do
    size=$(cat "$d/size" 2>/dev/null) || continue
    [ "${size:-0}" -gt 0 ] || continue
    dev=$(grep '^DEVNAME=' "$d/uevent" 2>/dev/null); dev=/dev/${dev#DEVNAME=}
    [ "$dev" = /dev/ ] && dev=/dev/${d##*/}
    st "$dev"
    if [ ! -r "$dev" ]; then row x "$dev"; echo ' denied'; continue; fi
    pages=$(((size + 7) / 8))
    by "$dev" 0 17
    [ "$pages" -gt 17 ] || continue
    for p in 32 64 68 69 128 256 512 1024; do [ "$p" -lt "$pages" ] && by "$dev" "$p" 1; done
    for p in 125 61 17 3; do [ "$pages" -gt "$((p + 17))" ] && by "$dev" $((pages - p)) 3; done
    at=$(root_folder "$dev"); [ -n "$at" ] && [ "$at" -ge 0 ] && by "$dev" $((at / 4096)) 9
done
# Room on file systems of devices; the targets, bind sources and swap files of
# the table, but for those that being looked at would mount.
paths() {
    awk '
    function dec(s,  o, i, c) {
        o = ""
        while ((i = match(s, /\\[0-3][0-7][0-7]/)) > 0) {
            c = substr(s, i + 1, 1) * 64 + substr(s, i + 2, 1) * 8 + substr(s, i + 3, 1)
            o = o substr(s, 1, i - 1) sprintf("%c", c); s = substr(s, i + 4)
        }
        return o s
    }
    function asleep(p,  i, best, kind) {
        best = -1
        for (i = 0; i < n; i++) if (p == at[i] || at[i] == "/" || index(p, at[i] "/") == 1)
            if (length(at[i]) >= best) { best = length(at[i]); kind = type[i] }
        return kind == "autofs"
    }
    FNR == 1 { file++ }
    file == 1 {
        for (i = 7; i <= NF && $i != "-"; i++);
        at[n] = dec($5); type[n] = $(i + 1)
        if ($(i + 2) ~ /^\/dev\// && $(i + 1) !~ /^fuse/) print "room " at[n]
        n++; next
    }
    /^[ \t]*#/ || NF < 2 { next }
    {
        source = dec($1); target = dec($2)
        if ($3 == "swap") { if (source ~ /^\// && source !~ /^\/dev\// && !asleep(source)) print "swap " source; next }
        if (target ~ /^\// && !asleep(target)) print "path " target
        if (source ~ /^\// && source !~ /^\/dev\// && !asleep(source)) print "path " source
    }' /proc/self/mountinfo /etc/fstab 2>/dev/null
}
paths | while read -r what p; do
    case $what in
        room) room "$p" ;;
        path) within whole "$p" ;;
        swap) within swapfile "$p" ;;
    esac
done
echo end
