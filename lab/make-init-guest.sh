#!/bin/bash
# Makes a guest of another init or initramfs from a root made before: installs it, puts in the script that reports, and
# writes LAB/root-KIND.img, LAB/initrd-KIND and LAB/vmlinuz-KIND for run-machine.py. Root, e2fsprogs, network to Debian.
# usage: lab/make-init-guest.sh LAB ROOTFS KIND
#   KIND: dracut, dracut-plain, openrc, runit, finit, sysv; ROOTFS: a Debian with a kernel and initramfs-tools in it
set -eu
LAB=$1 BASE=$2 KIND=$3
R=$LAB/rootfs-$KIND
kernel=$(cd "$BASE/lib/modules" && ls -d *-amd64)
inside() { chroot "$R" env DEBIAN_FRONTEND=noninteractive "$@"; }
if [ ! -d "$R" ]; then
    cp -a "$BASE" "$R.new"
    mv "$R.new" "$R"
    cp /etc/resolv.conf "$R/etc/"
    inside apt-get update -qq
    get=(apt-get install -y -qq --no-install-recommends --allow-remove-essential -o DPkg::Options::=--force-confold)
    case $KIND in
        dracut*) inside "${get[@]}" dracut dracut-core mdadm cryptsetup-bin lvm2 dmsetup busybox ;;
        openrc) inside "${get[@]}" openrc sysvinit-core initscripts systemd-sysv- ;;
        runit) inside "${get[@]}" runit-init runit initscripts sysv-rc orphan-sysvinit-scripts systemd-sysv- ;;
        finit) inside "${get[@]}" finit finit-sysv systemd-sysv- ;;
        sysv) inside "${get[@]}" sysvinit-core initscripts sysv-rc orphan-sysvinit-scripts systemd-sysv- ;;
    esac >/dev/null
    rm -rf "$R"/var/cache/apt/archives/*.deb "$R"/var/lib/apt/lists/*
fi
mkdir -p "$R"/srv/{raid,lv,usr}

# Inits without systemd report from a script of their own; a second after ten minutes whatever has come of it.
cat > "$R/usr/local/sbin/plain-report" <<'S'
#!/bin/sh
[ -e /run/reported ] && exit 0
: > /run/reported 2>/dev/null
exec >/dev/ttyS1 2>&1
echo "REPORT-BEGIN"
echo "why $1"
echo "uptime $(cut -d' ' -f1 /proc/uptime)"
awk '{print "mounted",$1,$2,$3,$4}' /proc/mounts | grep -v -E ' (sysfs|proc|cgroup2?|devpts|tracefs|debugfs|mqueue|hugetlbfs|bpf|pstore|fusectl|configfs|securityfs|ramfs|devtmpfs|selinuxfs|efivarfs|binfmt_misc) '
awk 'NR>1{print "swapped",$1,$2,$3,$5}' /proc/swaps
ps ax -o args= 2>/dev/null | grep -E 'sulogin|mount |swapon|fsck' | grep -v grep | sed 's/^/job /'
command -v rc-status >/dev/null && rc-status -a 2>/dev/null | sed 's/\x1b\[[0-9;]*m//g; s/^/job /'
for f in /var/log/fsck/checkroot /var/log/fsck/checkfs /run/initramfs/fsck.log /var/log/boot; do [ -s $f ] && tail -15 $f | sed "s|^|log $(basename $f): |"; done
echo "REPORT-END"
sync
[ "$1" = watchdog ] || sleep 1
echo o > /proc/sysrq-trigger
S
chmod 755 "$R/usr/local/sbin/plain-report"
printf '#!/bin/sh\n(sleep 330; /usr/local/sbin/plain-report watchdog) </dev/null >/dev/null 2>&1 &\n' > "$R/usr/local/sbin/plain-watch"
chmod 755 "$R/usr/local/sbin/plain-watch"
echo sounding > "$R/etc/hostname"
case $KIND in
    openrc | sysv)
        sed -i 's/^[0-9].*getty.*//; s/^#\?id:.*/id:2:initdefault:/' "$R/etc/inittab"
        grep -q plain-report "$R/etc/inittab" || {
            sed -i '1i rw::sysinit:/usr/local/sbin/plain-watch' "$R/etc/inittab"
            echo 'rp:2345:once:/usr/local/sbin/plain-report multi-user' >> "$R/etc/inittab"; } ;;
    runit)
        grep -q plain-watch "$R/etc/runit/1" || sed -i '2i /usr/local/sbin/plain-watch' "$R/etc/runit/1"
        grep -q plain-report "$R/etc/runit/2" || sed -i 's|^exec env|(sleep 5; /usr/local/sbin/plain-report multi-user) \&\n&|' "$R/etc/runit/2" ;;
    finit)
        printf 'run [S] /usr/local/sbin/plain-watch -- Watch\ntask [2345] /usr/local/sbin/plain-report multi-user -- Report\n' > "$R/etc/finit.d/report.conf" ;;
esac

if [ "${KIND#dracut}" != "$KIND" ]; then
    m=$R/usr/lib/dracut/modules.d/98scenario
    mkdir -p "$m"
    cat > "$m/module-setup.sh" <<'S'
#!/bin/bash
check() { return 0; }
depends() { return 0; }
install() {
    inst_multiple mkdir cat mount umount sync sleep
    inst_simple "$moddir/scenario.sh" /usr/bin/scenario
    if dracut_module_included systemd; then
        inst_simple "$moddir/scenario.service" "$systemdsystemunitdir/scenario.service"
        mkdir -p "$initdir$systemdsystemunitdir/initrd-root-fs.target.requires"
        ln_r "$systemdsystemunitdir/scenario.service" "$systemdsystemunitdir/initrd-root-fs.target.requires/scenario.service"
    else
        inst_hook mount 98 "$moddir/scenario-plain.sh"
    fi
}
S
    cat > "$m/scenario.sh" <<'S'
#!/bin/sh
# scenario ROOT: puts a scenario's files below ROOT.
[ -d /scenario ] || exit 0
mount -o remount,rw "$1" 2>/dev/null
while read -r n path; do mkdir -p "$1${path%/*}"; cat "/scenario/$n" > "$1$path"; done < /scenario/list
sync
[ "$2" = keep ] || mount -o remount,ro "$1"
S
    cat > "$m/scenario.service" <<'S'
[Unit]
DefaultDependencies=no
After=sysroot.mount
Requires=sysroot.mount
Before=initrd-root-fs.target initrd-parse-etc.service
[Service]
Type=oneshot
RemainAfterExit=yes
ExecStart=/bin/sh -c 'if [ -d /sysroot/etc ]; then w=$$(grep -w rw /proc/cmdline >/dev/null && echo keep); /bin/sh /usr/bin/scenario /sysroot $$w; fi'
S
    cat > "$m/scenario-plain.sh" <<'S'
#!/bin/sh
# The files are in place before root is mounted in earnest: its entry is read from them.
mkdir -p /run/scenario-root
if mount "${root#block:}" /run/scenario-root 2>/dev/null; then
    /bin/sh /usr/bin/scenario /run/scenario-root keep
    umount /run/scenario-root
fi
S
    omit=()
    [ "$KIND" = dracut-plain ] && omit=(--omit "systemd systemd-initrd dracut-systemd systemd-udevd systemd-sysusers systemd-modules-load")
    inside dracut --force --no-hostonly --no-hostonly-cmdline --gzip --kver "$kernel" "${omit[@]}" \
        --add "lvm mdraid crypt btrfs scenario" --add-drivers "virtio_pci virtio_blk ext4 xfs btrfs vfat raid1 dm-mod dm-crypt" \
        "/boot/initrd.dracut" 2>&1 | grep -v -i -E 'including|skipping' | tail -5
    cp "$R/boot/initrd.dracut" "$LAB/initrd-$KIND"
    rm "$R/boot/initrd.dracut"
else
    cp "$LAB/initrd-bookworm" "$LAB/initrd-$KIND"
fi
cp "$R"/boot/vmlinuz-"$kernel" "$LAB/vmlinuz-$KIND"
rm -f "$LAB/root-$KIND.img"
truncate -s 1900M "$LAB/root-$KIND.img"
mke2fs -q -t ext4 -L hull -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001 -d "$R" "$LAB/root-$KIND.img"
mkdir -p "$LAB/mnt-$KIND"
mount -o loop "$LAB/root-$KIND.img" "$LAB/mnt-$KIND"
( cd "$LAB/mnt-$KIND/var/swap"
  fallocate -l 32M good && chmod 600 good && mkswap good
  fallocate -l 32M loose && chmod 644 loose && mkswap loose
  truncate -s 32M holes && chmod 600 holes && mkswap holes
  fallocate -l 32M nosig && chmod 600 nosig ) >/dev/null 2>&1 || true
umount "$LAB/mnt-$KIND"
rmdir "$LAB/mnt-$KIND"
ls -la "$LAB/initrd-$KIND" "$LAB/root-$KIND.img"
