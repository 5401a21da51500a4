#!/bin/bash
# The collection of contrib/ansible, built and installed, against eight ssh servers, each in a root and a network namespace
# of its own: surveyed, laid out, rolled out. One host has a typo planted, one is changed by hand after the survey, one
# goes away half-way, one gets worse on the spot. Then the play's own checks: lint, --check, a second run.
# Root, openssh-server, python3; ansible-core and ansible-lint from PyPI, or TOOLS with their venv.
# usage: lab/try-roll-out.sh STATIC_PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-roll-out.sh STATIC_PROGRAM}")
here=$(dirname "$(realpath "$0")")
work=$(mktemp -d /dev/shm/roll-out.XXXXXX)
hosts="gauge-01 gauge-02 gauge-03 store-01 store-02 wave-01 wave-02 wave-03"
failed=0
say() { printf '%-58s %s\n' "$1" "$2"; case $2 in no*) failed=1 ;; esac; }
stop() {
    for pid in "$work"/*.pid; do
        # Sessions that ssh keeps open hold the namespaces too.
        net=$(readlink "/proc/$(cat "$pid")/ns/net") || continue
        for p in /proc/[0-9]*; do [ "$(readlink "$p/ns/net" 2>/dev/null)" = "$net" ] && kill -9 "${p#/proc/}"; done
    done
    for i in 1 2 3 4 5 6 7 8; do ip link del "sm$i" 2>/dev/null; done
    ip link del br-saltmarsh 2>/dev/null; sleep 1; [ -n "${KEEP-}" ] || rm -rf "$work"
}
trap stop EXIT
tools=${TOOLS-}
if [ -z "$tools" ]; then
    tools=$work/venv; python3 -m venv "$tools" && "$tools/bin/pip" -q install ansible-core ansible-lint || exit 1
fi
export PATH=$tools/bin:$PATH ANSIBLE_HOME=$work/home ANSIBLE_COLLECTIONS_PATH=$work/collections ANSIBLE_NOCOLOR=1
ansible-galaxy collection build "$here/../contrib/ansible" --output-path "$work" >/dev/null &&
    ansible-galaxy collection install "$work"/bradawl-tables-*.tar.gz --offline >/dev/null && was=yes || was=no
say "the collection is built and installed" $was
(cd "$work/collections/ansible_collections/bradawl/tables" && ansible-lint --offline --profile production -q) >"$work/lint" 2>&1 && was=yes || { was="no: $(tail -5 "$work/lint")"; }
say "ansible-lint, profile production" "$was"

ssh-keygen -q -t ed25519 -N '' -f "$work/key"; ssh-keygen -q -t ed25519 -N '' -f "$work/hostkey"
chmod 755 "$work"; mkdir -p "$work/roots"
ip link add br-saltmarsh type bridge && ip addr add 198.51.100.254/24 dev br-saltmarsh && ip link set br-saltmarsh up || exit 1
n=0
# serve NAME TABLE: a host with its own root, network and table.
serve() {
    local name=$1 root=$work/roots/$1; n=$((n + 1))
    mkdir -p "$root/up" "$root/work" "$root/at" "$root/up/etc/ssh" "$root/up/srv/series" "$root/up/srv/shown" "$root/up/srv/tides" "$root/up/root/.ssh"
    printf '%s' "$2" >"$root/up/etc/fstab"; chmod 644 "$root/up/etc/fstab"
    echo "$name" >"$root/up/etc/hostname"
    cp "$work/key.pub" "$root/up/root/.ssh/authorized_keys"; chmod 700 "$root/up/root/.ssh"
    printf 'Port 22\nHostKey %s\nUsePAM no\nStrictModes no\nPermitRootLogin yes\nPasswordAuthentication no\nSubsystem sftp internal-sftp\nPidFile /run/sshd.pid\n' "/etc/ssh/key" >"$root/up/etc/ssh/sshd_config"
    install -m 600 "$work/hostkey" "$root/up/etc/ssh/key"
    ip link add "sm$n" type veth peer name "sn$n" && ip link set "sm$n" master br-saltmarsh up
    unshare -mnu bash -c "
        echo \$\$ >$work/$name.pid; hostname $name
        while ! ip link show sn$n >/dev/null 2>&1; do sleep 0.1; done
        ip addr add 198.51.100.$n/24 dev sn$n; ip link set sn$n up; ip link set lo up
        mount -t overlay overlay -o lowerdir=/,upperdir=$root/up,workdir=$root/work $root/at
        cd $root/at; mount -t proc proc proc; mount --rbind /dev dev; mount --rbind /sys sys; mount -t tmpfs tmpfs run; mount -t tmpfs tmpfs tmp; mkdir -p run/sshd
        pivot_root . mnt 2>/dev/null; cd /; umount -l mnt
        exec /usr/sbin/sshd -D" >"$work/$name.log" 2>&1 & disown
    while [ ! -e "$work/$name.pid" ]; do sleep 0.1; done
    ip link set "sn$n" netns "$(cat "$work/$name.pid")"
    printf '%s ansible_host=198.51.100.%s\n' "$name" $n >>"$work/inventory.$(echo "$name" | cut -d- -f1)"
}
common='tmpfs /srv/tides tmpfs size=16M 0 0
'
for name in $hosts; do
    table=$common
    case $name in
        gauge-02) table='tmpfs /srv/tides tmpfs size=16M,noatme,nofail 0 0
' ;;
    esac
    serve "$name" "# $name
$table"
done
for role in gauge store wave; do echo "[$role]"; cat "$work/inventory.$role"; done >"$work/inventory"
printf '[all:vars]\nansible_user=root\nansible_ssh_private_key_file=%s\nansible_ssh_common_args=-o StrictHostKeyChecking=no -o UserKnownHostsFile=/dev/null -o LogLevel=ERROR -o ConnectTimeout=5 -o ServerAliveInterval=2 -o ServerAliveCountMax=2\nansible_python_interpreter=/usr/bin/python3\n' "$work/key" >>"$work/inventory"
sleep 2
cd "$work" || exit 1
play() { ansible-playbook -i "$work/inventory" "bradawl.tables.$1" "${@:2}"; }
play collect -e bradawl_collect_program="$program" -e bradawl_collect_to="$work/collected" -e bradawl_collect_become=false >collect.out 2>&1 || { tail -20 collect.out; exit 1; }
"$program" survey --from-collected collected -o records >/dev/null
say "hosts surveyed by the collection: $(ls records/*.json | grep -vc index)" yes
cat >layout.toml <<'E2'
[[entry]]
target = "/srv/tides"
source = "tmpfs"
options = ["nosuid"]

[[entry]]
role = "store"
target = "/srv/shown"
source = "/srv/series"

[[entry]]
role = "wave"
target = "/var/tmp/waves"
source = "tmpfs"
options = ["size=8M"]
E2
"$program" layout layout.toml records --into new >layout.out; cat layout.out
say "the host with the typo keeps it, and the layout is laid there" "$(grep -c 'gauge-02 ' layout.out | sed 's/^1$/yes/')"
roll() { play roll_out -e bradawl_roll_out_from="$work/new" -e bradawl_roll_out_program="$program" -e bradawl_roll_out_become=false "$@"; }
table() { cat "$work/roots/$1/up/etc/fstab"; }
for name in $hosts; do table "$name" >"before.$name"; done

roll --check --diff >check.out 2>&1; grep -q '^+.*nosuid' check.out && same=yes || same="no difference shown"
for name in $hosts; do cmp -s "before.$name" <(table "$name") || same="no: $name was changed by --check"; done
say "--check --diff shows the difference, and changes nothing" "$same"

# By hand after the survey; and what an entry needs becomes something else without a word in the table.
nsenter -t "$(cat gauge-03.pid)" -m sh -c 'echo "# by hand" >>/etc/fstab'
nsenter -t "$(cat store-02.pid)" -m sh -c 'rmdir /srv/series && echo >/srv/series' || failed=1
roll -e '{"bradawl_roll_out_serial": [1, 3, 4], "bradawl_roll_out_approved": ["store-01", "store-02", "wave-01", "wave-02"]}' >first.out 2>&1
sed -n '/PLAY RECAP/,$p' first.out
now() { nsenter -t "$(cat "$1.pid")" -m cat /etc/fstab; }
changed() { ! cmp -s "before.$1" <(now "$1"); }
changed gauge-01 && changed gauge-02 && changed store-01 && was=yes || was=no
say "first hosts have the new table" $was
now gauge-02 | grep -q noatme && was=yes || was=no; say "the typo of gauge-02 is untouched" $was
now gauge-03 | grep -q 'by hand' && ! now gauge-03 | grep -q nosuid && was=yes || was=no
say "gauge-03, changed by hand, is left alone" $was
changed store-02 && was="no: not taken back" || was=yes; say "store-02 got worse: its old table is back" "$was"
grep -q 'store-02 got worse, its old table is back' first.out && was=yes || was=no; say "and the play says so" $was
changed wave-01 && was="no: the play went on" || was=yes; say "hosts behind it are not touched" "$was"

# The source is back; one host goes away half-way; steps of one host are not approved.
nsenter -t "$(cat store-02.pid)" -m sh -c 'rm /srv/series && mkdir /srv/series' 
( while ! grep -q 'Look at the table' second.out 2>/dev/null; do sleep 0.2; done; while ! grep -q 'wave-02' second.out; do sleep 0.1; done; ip link set sm7 down ) & away=$!
roll -e '{"bradawl_roll_out_serial": [3, 3, 1, 1], "bradawl_roll_out_approved": ["store-01", "store-02", "wave-01", "wave-02"], "bradawl_roll_out_mount": true}' >second.out 2>&1; status=$?
kill $away 2>/dev/null
sed -n '/PLAY RECAP/,$p' second.out
changed store-02 && changed wave-01 && was=yes || was=no; say "store-02 and wave-01 have it now" $was
nsenter -t "$(cat wave-01.pid)" -m -p findmnt -n /var/tmp/waves >/dev/null && was=yes || was="no"; say "wave-01 has it mounted at once" "$was"
ip link set sm7 up
[ $status -ne 0 ] && was=yes || was=no; say "a host that went away ends the play" $was
roll -e '{"bradawl_roll_out_approved": ["store-01", "store-02", "wave-01", "wave-02"]}' >third.out 2>&1; status=$?
sed -n '/PLAY RECAP/,$p' third.out
changed wave-02 && was=yes || was=no; say "once it is back the next run does it" $was
changed wave-03 && was=no || was=yes; say "wave-03, whose step nobody approved, is left alone" $was
grep -q 'has steps that are not approved' third.out && [ $status -ne 0 ] && was=yes || was=no; say "and the play fails with the reason at its end" $was
grep -q 'wave-01 .*changed=0' third.out && was=yes || was=no; say "hosts that have it are not changed again" $was
for name in $hosts; do nsenter -t "$(cat "$name.pid")" -m sh -c 'ls -d /tmp/bradawl.* 2>/dev/null' && { say "left on $name" no; }; done
echo "--- tables"; for name in gauge-01 gauge-02 gauge-03 store-02 wave-02; do diff -u --label "$name before" --label "$name now" "before.$name" <(now "$name"); done
exit $failed
