#!/usr/bin/env python3
"""Rehearses tables of every kind on loop devices and holds each answer against what `mount -a`, entry after entry, does with
the same table in a namespace of its own. Root, e2fsprogs, xfsprogs, btrfs-progs, dosfstools.
usage: lab/try-rehearse-order.py PROGRAM [REHEARSE-OPTIONS...]"""
import json, os, subprocess, sys, tempfile
program, more = os.path.realpath(sys.argv[1]), sys.argv[2:]
work = tempfile.mkdtemp(prefix='order.', dir='/var/tmp')
def sh(line, **kw): return subprocess.run(line, shell=True, text=True, capture_output=True, **kw)
loops = {}
def disk(name, size, make):
    path = f'{work}/{name}.img'
    sh(f'truncate -s {size} {path}; {make} {path}')
    loops[name] = sh(f'losetup -f --show {path}').stdout.strip()
disk('a', '64M', 'mkfs.ext4 -q -F -L grain')
disk('b', '320M', 'mkfs.xfs -q -L silo')
disk('c', '128M', 'mkfs.btrfs -q -L press')
disk('d', '40M', 'mkfs.vfat -n EFISYS')
disk('e', '24M', 'mkfs.ext2 -q -F -L oldie')
disk('s', '32M', 'mkswap')
disk('z', '24M', 'true #')
disk('r', '64M', 'mkfs.ext4 -q -F -L fixed')
sh(f'mkdir -p {work}/m && mount {loops["c"]} {work}/m && btrfs subvolume create {work}/m/@tides && mkdir {work}/m/logs && umount {work}/m')
sh(f'mount {loops["a"]} {work}/m && mkdir -p {work}/m/sub/deep {work}/m/low {work}/m/up {work}/m/wk && truncate -s 40M {work}/m/inner.img && mkfs.ext4 -q -F {work}/m/inner.img && dd if=/dev/zero of={work}/m/swapfile bs=1M count=16 && chmod 600 {work}/m/swapfile && mkswap {work}/m/swapfile && umount {work}/m')
for d in ('one', 'two', 'three', 'four', 'low', 'up', 'wk', 'deep/inner', 'full'): os.makedirs(f'{work}/t/{d}', exist_ok=True)
open(f'{work}/t/afile', 'w').write('a file\n'); open(f'{work}/t/bfile', 'w').write('b\n')
sh(f'truncate -s 40M {work}/t/plain.img; mkfs.ext4 -q -F {work}/t/plain.img; (head -c 1M /dev/zero; cat {work}/t/plain.img) > {work}/t/part.img')
T = f'{work}/t'
L = loops
TABLES = {
 'plain': f'{L["a"]} {T}/one ext4 noatime 0 2\n{L["b"]} {T}/two xfs logbsize=64k 0 0\n{L["d"]} {T}/three vfat uid=1000,gid=disk,umask=077 0 0\ntmpfs {T}/four tmpfs size=8M,mode=700 0 0\n',
 'nested': f'{L["a"]} {T}/one ext4 defaults 0 2\n{L["b"]} {T}/one/sub xfs defaults 0 0\n{L["e"]} {T}/one/sub/absent ext2 defaults,nofail 0 0\ntmpfs {T}/one/low tmpfs size=1M 0 0\n',
 'binds': f'{L["a"]} {T}/one ext4 defaults 0 2\n{T}/one/sub {T}/two none bind 0 0\n{T}/one/sub/deep {T}/three none bind,ro 0 0\n{T}/afile {T}/bfile none bind 0 0\n{T}/full {T}/afile none bind 0 0\n',
 'overlay': f'{L["a"]} {T}/one ext4 defaults 0 2\noverlay {T}/two overlay lowerdir={T}/one/low:{T}/one/sub 0 0\noverlay {T}/three overlay lowerdir={T}/low,upperdir={T}/up,workdir={T}/wk 0 0\noverlay {T}/four overlay lowerdir={T}/none 0 0\n',
 'subvolumes': f'{L["c"]} {T}/one btrfs subvol=@tides,compress=zstd 0 0\n{L["c"]} {T}/two btrfs subvol=/ 0 0\n{L["c"]} {T}/three btrfs subvol=@gone 0 0\n{L["c"]} {T}/four btrfs subvolid=256 0 0\n',
 'wrong': f'{L["a"]} {T}/one ext4 noatme 0 2\n{L["b"]} {T}/two ext4 defaults 0 0\n{L["s"]} {T}/three ext4 defaults 0 0\n{L["z"]} {T}/four ext4 defaults 0 0\n',
 'words': f'{L["a"]} {T}/one ext4 commit=x 0 2\n{L["b"]} {T}/two xfs logbsize=48k 0 0\n{L["d"]} {T}/three vfat umask=999 0 0\ntmpfs {T}/four tmpfs size=8Q 0 0\n',
 'elders': f'{L["e"]} {T}/one ext4 defaults 0 0\n{L["a"]} {T}/two ext2 defaults 0 0\n{L["e"]} {T}/three ext3 defaults 0 0\n',
 'images': f'{T}/plain.img {T}/one ext4 loop 0 0\n{T}/part.img {T}/two ext4 loop,offset=1048576,noatime 0 0\n{T}/part.img {T}/three ext4 loop 0 0\n{T}/none.img {T}/four ext4 loop 0 0\n',
 'image-on-entry': f'{L["a"]} {T}/one ext4 defaults 0 2\n{T}/one/inner.img {T}/two ext4 loop 0 0\n{T}/one/swapfile none swap sw 0 0\n',
 'waiting': f'{L["a"]} {T}/one ext4 noauto 0 2\n{L["b"]} {T}/two xfs x-systemd.automount,nofail 0 0\n{L["e"]} {T}/three ext2 user,noexec 0 0\n',
 'own-words': f'{L["a"]} {T}/one ext4 X-mount.subdir=sub 0 0\n{L["e"]} {T}/made/here ext2 X-mount.mkdir 0 0\n{L["d"]} {T}/two vfat uid=root,gid=nosuchgroup 0 0\ntmpfs {T}/three tmpfs X-mount.mode=711 0 0\n',
 'labels': f'{L["r"]} {T}/one ext4 context=system_u:object_r:tmp_t:s0 0 0\n{L["e"]} {T}/two ext2 ro,errors=panic 0 0\n{L["d"]} {T}/three vfat ro,shortname=mixed 0 0\n',
 'pairs': f'{L["a"]} {T}/one ext4 data=journal,delalloc 0 2\n{L["r"]} {T}/two ext4 data=ordered,commit=15,barrier=0 0 0\n{L["b"]} {T}/three xfs noquota,usrquota 0 0\n',
 'types': f'{L["a"]} {T}/one auto defaults 0 0\n{L["b"]} {T}/two ext4,xfs defaults 0 0\nnone {T}/three proc hidepid=2 0 0\nnone {T}/four nosuchfs defaults 0 0\n',
 'places': f'{L["a"]} {T}/afile ext4 defaults 0 0\n{L["e"]} {T}/one/ ext2 defaults 0 0\ntmpfs {T}/deep/../two tmpfs size=1M 0 0\n{L["d"]} {T}/deep/inner vfat defaults 0 0\n',
 'stacked': f'tmpfs {T}/one tmpfs size=1M 0 0\n{L["a"]} {T}/one/a ext4 nofail 0 0\n{T}/low {T}/one/b none bind 0 0\n{L["b"]} {T}/deep/inner xfs defaults 0 0\n{L["e"]} {T}/deep ext2 defaults 0 0\n',
}
real = '''mount --make-rprivate /; i=0
while read -r line; do i=$((i+1)); printf '%%s\\n' "$line" > %(w)s/one.tab
set -- $line; case $4 in *noauto*) echo "$i noauto"; continue;; esac
[ "$3" = swap ] && { swaplabel "$1" >/dev/null 2>&1 && echo "$i works" || echo "$i rejected"; continue; }
%(mk)s
if out=$(mount -a -T %(w)s/one.tab 2>&1 </dev/null); then echo "$i works"; else echo "$i rejected $(echo "$out" | tr '\\n' ' ')"; fi
done < %(w)s/tab'''
# systemd makes the target of a mount and the source of a bind before.
MK = 'mkdir -p "$2" 2>/dev/null; case $4 in *bind*) [ -e "$1" ] || mkdir -p "$1";; esac'
entries = same = 0
for name, text in TABLES.items():
    open(f'{work}/tab', 'w').write(text)
    lines = text.strip().split('\n')
    said = json.loads(subprocess.run([program, 'rehearse', '--table', f'{work}/tab', '--format', 'json', *more], capture_output=True, text=True).stdout)
    answers = {e['line']: e for e in said['entries']}
    # The boot goes by need; so does mount -a here.
    order = [e['line'] for e in said['entries']]
    open(f'{work}/tab', 'w').write('\n'.join(lines[n - 1] for n in order) + '\n')
    state = sh(f'cp -a {work}/t {work}/t.before')
    out = subprocess.run(['unshare', '-m', 'bash', '-c', real % dict(w=work, mk=MK)], capture_output=True, text=True).stdout
    sh(f'rm -rf {work}/t; mv {work}/t.before {work}/t')
    for row in out.strip().split('\n'):
        n, what, *rest = row.split(' ', 2)
        line = order[int(n) - 1]
        entry = answers[line]
        got = {'works': 'works', 'refused': 'rejected', 'skipped': 'not tried'}.get(entry['result'], entry['result'])
        agrees = got == what or (what == 'noauto' and got == 'not tried')
        entries += 1; same += agrees
        if not agrees or entry['differs'] or '-v' in os.environ.get('SAY', ''):
            print(f'{"same " if agrees else "OTHER"} {name}:{line} {lines[line-1].replace(work, "W")}\n      rehearsal: {got}: {entry["why"].replace(work, "W")}\n      mount:     {what} {" ".join(rest).replace(work, "W")}' + (f'\n      forecast:  {entry["forecast"]} {entry["forecast_why"].replace(work, "W")}' if entry['differs'] else ''))
    if said['left_behind']: print('left behind:', said['left_behind'])
print(f'{entries} entries, {same} alike')
for loop in loops.values(): sh(f'losetup -d {loop}')
sh(f'rm -rf {work}')
