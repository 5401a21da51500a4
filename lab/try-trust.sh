#!/bin/bash
# What needs root or FUSE to be shown: outputs into devices, a file system that
# never answers, other users' files and locks, device files in trees, programs
# that a table names (Debian's fuse3 mounts those). Each case says what came out;
# the program of an earlier version shows what came out before.
# usage (root): lab/try-trust.sh PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-trust.sh PROGRAM}")
here=$(realpath "$(dirname "$0")")
work=$(mktemp -d /var/tmp/trust.XXXXXX) # not below /tmp, which rehearsals may cover
chmod 755 "$work"
wrong=0
say() { if [ "$2" = ok ]; then echo "ok     $1"; else echo "WRONG  $1${3:+: $3}"; wrong=$((wrong + 1)); fi; }
check() { local what=$1; shift; if "$@" >/dev/null 2>&1; then say "$what" ok; else say "$what" no; fi; }
cleanup() {
    exec 9>&- 2>/dev/null
    umount -l "$work/silent" 2>/dev/null
    rm -rf "$work"
}
trap cleanup EXIT
cd "$work" || exit 1
other() { setpriv --reuid=65534 --regid=65534 --clear-groups "$@"; }

echo "== outputs"
mkdir -p tree/etc && echo 'tmpfs /srv/a tmpfs size=1G 0 0' >tree/etc/fstab
cp -a /dev/null null && ln -s null link
for target in null link; do
    "$program" survey tree -o $target >/dev/null 2>&1
    check "survey -o $target leaves a character device" test -c null
done
disk=$(mktemp -p "$work") && truncate -s 1M "$disk" && node=$(losetup -f --show "$disk")
cp -a "$node" block && loop=block # a node of our own: an earlier version replaces it
"$program" survey tree -o "$loop" >/dev/null 2>&1
check "survey -o BLOCK DEVICE is refused" test -b "$loop"
check "and nothing is written to it" cmp -s "$disk" <(head -c 1M /dev/zero)
losetup -d "$node"
mkdir -m 1777 open && other ln -s /etc/shadow open/out.json && before=$(sha256sum </etc/shadow)
"$program" survey tree -o open/out.json >/dev/null 2>&1
check "a link of another user is not followed" test "$before" = "$(sha256sum </etc/shadow)"

echo "== other users' files"
mkdir -m 777 shared && cp tree/etc/fstab shared/fstab && chown root shared/fstab
other sh -c 'echo "evil /etc tmpfs defaults 0 0" > shared/fstab.before-2999-01-01T000000Z'
"$program" mend --table shared/fstab --undo --even-if-worse >/dev/null 2>&1
check "a backup that another user put there is not installed" grep -q /srv/a shared/fstab
other sh -c 'printf "{\"at\":\"x\",\"uid\":0,\"command\":\"\",\"before\":\"%s\",\"after\":\"x\",\"backup\":\"fstab.before-2999-01-01T000000Z\"}\n" "$(sha256sum < shared/fstab.before-2999-01-01T000000Z | cut -d" " -f1)" > shared/fstab.bradawl-history'
"$program" mend --table shared/fstab --undo --even-if-changed --even-if-worse >/dev/null 2>&1
check "nor by a history that another user wrote" grep -q /srv/a shared/fstab
rm -f shared/fstab.bradawl-history
mkfifo shared/fstab.before-9999
check "a FIFO of a backup's name keeps nobody waiting" timeout 20 sh -c "'$program' mend --table shared/fstab --undo; true"
mkdir project && printf '[[exception]]\nrule = "*"\nreason = "trust me"\n' >project/bradawl-policy.toml
chown 65534 project/bradawl-policy.toml
echo 'LABEL=lost /srv/lost ext4 defaults 0 2' >project/fstab
(cd project && "$program" audit --table fstab >out 2>&1; echo $? >status)
check "another user's policy silences nothing" grep -q 1 project/status
check "and it is said so" grep -q 'not in force' project/out

echo "== locks"
mkdir table && chmod 755 table && echo 'tmpfs /srv/a tmpfs noatime,noatime 0 0' >table/fstab
other flock table -c 'sleep 30' & other flock table/fstab -c 'sleep 30' &
sleep 1
timeout 20 "$program" mend --table table/fstab --edit 'line 1: +nosuid' --write --even-if-worse >/dev/null 2>&1
check "a directory that another user has locked is written to" grep -q nosuid table/fstab
pkill -u 65534 sleep 2>/dev/null

echo "== trees"
mkdir -p devices/etc && mknod devices/etc/fstab c 1 5
check "a device in place of the table is an error" sh -c "timeout 10 '$program' audit devices 2>&1 | grep -q device"
mkdir -p outside inside/etc && echo '# the rescuer has this' >outside/fstab && ln -s "$work/outside/fstab" inside/etc/fstab
"$program" mend inside --edit 'line 1: off' --write >/dev/null 2>&1
check "a link out of a tree is not written through" grep -q '^# the rescuer has this' outside/fstab

echo "== programs from tables"
cat >own.sh <<SH
#!/bin/sh
touch "$work/it-ran"
SH
chmod 755 own.sh && mkdir -p fuse
printf '%s\n' "$work/own.sh#x $work/fuse fuse nofail 0 0" "x $work/fuse fuse.$work/own.sh nofail 0 0" \
    "$work/own.sh $work/fuse fuse3 nofail 0 0" "127.0.0.1:/x $work/fuse nfs nofail,helper=$work/own.sh 0 0" >programs
timeout 60 "$program" rehearse --table programs --network >/dev/null 2>&1
check "rehearse runs no program that a table names" test ! -e it-ran

echo "== a file system that never answers"
mkdir silent fifo9 && mkfifo fifo9/hold
python3 "$here/never-answers.py" "$work/silent" <fifo9/hold >mounted 2>&1 &
exec 9>fifo9/hold
for _ in 1 2 3 4 5 6 7 8 9 10; do grep -q mounted mounted && break; sleep 0.3; done
if ! grep -q mounted mounted; then
    echo "not tried: FUSE cannot be mounted here: $(cat mounted)"
else
    ln -s silent/deep through && mkdir -p silenttree/etc
    cat >silent.fstab <<TABLE
x $work/silent fuse.never nofail 0 0
$work/silent/a /srv/a none bind,nofail 0 0
$work/through/swap none swap nofail 0 0
$work/silent/disk.img /srv/b ext4 loop,nofail 0 0
//store/x $work/silent/share cifs credentials=$work/silent/secret,nofail,_netdev 0 0
tmpfs $work/through/below tmpfs nofail 0 0
TABLE
    cp silent.fstab silenttree/etc/fstab
    for command in "audit --table silent.fstab" "forecast --table silent.fstab" "mend --table silent.fstab" \
        "survey --table silent.fstab" "swap --table silent.fstab" "devices" "adopt" "audit silenttree" \
        "draft tmpfs $work/silent/new" "rehearse --table silent.fstab --limit 3 --limit-all 20" "resolve LABEL=x"; do
        # shellcheck disable=SC2086 # words are words
        timeout 30 "$program" $command >said 2>&1
        status=$?
        check "bradawl ${command%% *} ${command#* } ends" test $status -ne 124
    done
    timeout 30 "$program" audit --table silent.fstab >said 2>&1
    check "audit says what does not answer" grep -q 'mount-silent' said
    "$program" survey --collector >collector.sh 2>/dev/null
    cat >etc-fstab.sh <<SH
mount --bind $work/silent.fstab /etc/fstab && sh -s <$work/collector.sh
SH
    mkdir -p collected && timeout 60 unshare -m sh etc-fstab.sh >collected/kelp.txt 2>/dev/null
    check "the collector ends" sh -c 'tail -1 collected/kelp.txt | grep -q "^end"'
    "$program" survey --from-collected collected -o records >/dev/null 2>&1
    check "and tells what does not answer" sh -c "'$program' audit records/kelp.json --no-policy | grep -q mount-silent"
fi
echo "$wrong wrong"
exit $((wrong > 0))
