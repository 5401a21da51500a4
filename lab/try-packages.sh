#!/bin/bash
# Installs what .ci/release --packages has built in fresh roots of three Debian
# releases, uses it, removes it, and looks what is left; the static program in an
# empty root too, that for aarch64 under emulation. Root, debootstrap, rpm,
# qemu-user-static.
# usage: lab/try-packages.sh SHIPPED [MIRROR]
set -u
shipped=$(realpath "${1:?usage: lab/try-packages.sh SHIPPED [MIRROR]}")
mirror=${2:-http://deb.debian.org/debian}
work=$(mktemp -d /var/tmp/packages.XXXXXX)
trap 'rm -rf "$work"' EXIT
failed=0
machine=$(uname -m)
static=$(ls "$shipped"/bradawl-*-"$machine"-unknown-linux-musl)
foreign=$(ls "$shipped"/bradawl-*-aarch64-unknown-linux-musl 2>/dev/null)
deb=$(ls "$shipped"/bradawl_*.deb)
rpm=$(ls "$shipped"/bradawl-*.rpm)
table='UUID=00000000-0000-4000-8000-000000000001 / ext4 defaults 0 1\ntmpfs /srv/a tmpfs noatme 0 0\n'

# judged ROOT COMMAND...: a table with a typo is judged right there.
judged() {
    local root=$1; shift
    # shellcheck disable=SC2059 # the table has escapes
    printf "$table" > "$root/fstab.new"
    "$@" audit --table /fstab.new --format json 2>/dev/null | grep -q '"rule": "option-unknown"'
}
say() { printf '%-22s %-8s %s\n' "$1" "$2" "$3"; case $3 in *no*) failed=1 ;; esac; }
# left ROOT: what the package would have put there and is there still.
left() { find "$1" -path "$1/proc" -prune -o -iname '*bradawl*' -print 2>/dev/null | grep -vc /fstab.new; }

mkdir -p "$work/empty"
cp "$static" "$work/empty/bradawl"
if judged "$work/empty" chroot "$work/empty" /bradawl; then was="installed, right"; else was="no"; fi
say "an empty root" static "$was"
if [ -n "$foreign" ] && command -v qemu-aarch64-static > /dev/null; then
    # shellcheck disable=SC2059
    printf "$table" > "$work/fstab.new"
    said=$(qemu-aarch64-static "$foreign" audit --table "$work/fstab.new" --format json 2>/dev/null)
    case $said in *option-unknown*) was="right" ;; *) was="no" ;; esac
    say "aarch64, emulated" static "$was"
fi

for release in bullseye bookworm trixie; do
    root=$work/$release
    # Roots made before are used again where ROOTS names them.
    if [ -n "${ROOTS-}" ] && [ -d "$ROOTS/$release/etc" ]; then
        cp -a "$ROOTS/$release" "$root"
    elif ! debootstrap --variant=minbase "$release" "$root" "$mirror" > "$work/$release.log" 2>&1; then
        say "$release" root "left out: no root could be made"; continue
    fi
    mount -t proc proc "$root/proc"
    cp "$static" "$root/usr/local/bin/bradawl"
    judged "$root" chroot "$root" bradawl && was="installed, right" || was="no"
    rm "$root/usr/local/bin/bradawl"
    say "$release" static "$was, removed, left: $(left "$root")"

    cp "$deb" "$root/bradawl.deb"
    was="no"
    chroot "$root" dpkg -i /bradawl.deb > "$work/dpkg.log" 2>&1 && judged "$root" chroot "$root" bradawl && was="installed, right"
    [ -s "$root/usr/share/bash-completion/completions/bradawl" ] || was="no completion"
    chroot "$root" dpkg -P bradawl >> "$work/dpkg.log" 2>&1 || was="not removed"
    rm "$root/bradawl.deb"
    # The log and the lists of the package manager are its own.
    say "$release" deb "$was, removed, left: $(left "$root")"

    was="no"
    # Debian's rpm has a database of its own.
    rpm --root "$root" --initdb 2>/dev/null
    rpm --root "$root" -i --nodeps --nosignature "$rpm" > "$work/rpm.log" 2>&1 && judged "$root" chroot "$root" bradawl && was="installed, right"
    rpm --root "$root" -e bradawl >> "$work/rpm.log" 2>&1 || was="not removed"
    say "$release" rpm "$was, removed, left: $(left "$root")"
    umount "$root/proc"
done

# cargo install needs a Rust toolchain, which these roots have not: on this machine, into a directory of its own.
if command -v cargo > /dev/null; then
    # shellcheck disable=SC2059
    printf "$table" > "$work/fstab.new"
    cargo install --quiet --locked --path "$(dirname "$0")/../crates/cli" --root "$work/cargo" > "$work/cargo.log" 2>&1
    said=$("$work/cargo/bin/bradawl" audit --table "$work/fstab.new" --format json 2>/dev/null)
    case $said in *option-unknown*) was="installed, right" ;; *) was="no" ;; esac
    cargo uninstall --quiet --root "$work/cargo" bradawl >> "$work/cargo.log" 2>&1 || was="not removed"
    say "this machine" cargo "$was, removed, left: $(find "$work/cargo/bin" -type f 2>/dev/null | wc -l)"
fi
exit $failed
