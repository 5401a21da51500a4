#!/usr/bin/env python3
"""record-volumes.py OUT.tar.zst: volumes of LVM of every kind over several physical volumes, chains of disks, and stripes over
unequal ones, made by a real kernel (in user mode, with the userland of boot/build.sh bookworm and mdadm beside it); their blocks
are numbered. Keeps the members, sparse and packed, and MANIFEST: a line each, name, sum of what the kernel read, size, files;
of a volume NAME is group/volume. LAB as for boot/build.sh. Needs user-mode-linux, mdadm, zstd, root."""
import os, shutil, subprocess, sys, tempfile
LAB = os.environ['LAB']
ROOT = f'{LAB}/rootfs-bookworm'
GUEST = r'''#!/usr/bin/python3
import ctypes, hashlib, os, subprocess
os.environ.update(PATH='/usr/sbin:/usr/bin:/sbin:/bin', DM_DISABLE_UDEV='1', LVM_SUPPRESS_FD_WARNINGS='1')
def sh(*a, quiet=False):
    done = subprocess.run(a, stdin=subprocess.DEVNULL, capture_output=True, text=True, errors='replace')
    if done.returncode and not quiet: print(' '.join(a), done.returncode, done.stderr.strip()[:300], flush=True)
    return done.stdout.strip()
for t, at in (('proc', '/proc'), ('sysfs', '/sys'), ('devtmpfs', '/dev'), ('tmpfs', '/run'), ('tmpfs', '/tmp')): sh('mount', '-t', t, t, at)
sh('mount', '-t', 'hostfs', '-o', 'OUT', 'none', '/mnt')
for m in ('loop', 'linear', 'raid0', 'raid1', 'raid456', 'raid10', 'dm-mod', 'dm-raid', 'dm-mirror', 'dm-snapshot', 'dm-thin-pool', 'dm-cache', 'dm-cache-smq'): sh('modprobe', m)
CONF = 'activation{udev_sync=0 udev_rules=0 monitoring=0} global{thin_check_executable="" thin_repair_executable="" cache_check_executable="" use_lvmpolld=0} devices{obtain_device_list_from_udev=0 scan=["/dev"]} backup{backup=0 archive=0}'
def lvm(*a, **kw): return sh(a[0], '--config', CONF, *a[1:], **kw)
def number(path, start=1, of=None):
    with open(path, 'r+b', buffering=0) as f:
        size = f.seek(0, 2)
        for block in of or range(size // 4096): f.seek(block * 4096); f.write((start + block).to_bytes(8, 'little'))
        os.fsync(f.fileno())
def members(name, sizes):
    files, loops = [], []
    for n, size in enumerate(sizes):
        path = f'/mnt/{name}-{"abcdefgh"[n]}.img'
        with open(path, 'wb') as f: f.truncate(size << 20)
        files.append(os.path.basename(path)); loops.append(sh('losetup', '-f', '--show', path))
    return files, loops
def note(name, path, files):
    data = open(path, 'rb').read()
    manifest.write(f'{name}\t{hashlib.sha256(data).hexdigest()}\t{len(data)}\t{" ".join(files)}\n'); manifest.flush()
def array(name, level, sizes, *more):
    files, loops = members(name, sizes)
    sh('mdadm', '--create', '/dev/md7', '--run', '--quiet', '--homehost=zoo', f'--name={name}', f'--level={level}', f'--raid-devices={len(sizes)}', *more, *loops)
    number('/dev/md7'); note(name, '/dev/md7', files)
    sh('mdadm', '--stop', '/dev/md7')
    for loop in loops: sh('losetup', '-d', loop)
def group(name, sizes, volumes, last=None):
    files, loops = members(name, sizes)
    lvm('vgcreate', '-q', '-s', '512k', name, *loops)
    for volume, orders in volumes.items():
        for order in orders: lvm(*[w.replace('VG', name).replace('LV', volume) for w in order.split()])
        if os.path.exists(f'/dev/{name}/{volume}') and not last: number(f'/dev/{name}/{volume}', 1 + 100000 * len(volume))
    if last: last(name, loops)
    lvm('vgchange', '-an', name); lvm('vgchange', '-ay', name)
    for volume in volumes:
        path = f'/dev/{name}/{volume}'
        if not os.path.exists(path): sh('dmsetup', 'mknodes'); lvm('vgmknodes', name)
        if os.path.exists(path) and volume != 'pool': note(f'{name}/{volume}', path, files)
    lvm('vgchange', '-an', name)
    for loop in loops: sh('losetup', '-d', loop)
manifest = open('/mnt/MANIFEST', 'w')
SIX = [6, 6, 6, 6, 6]
ZERO = '-Zn -Wn -y'
array('chain', 'linear', [3, 5, 4]); array('chain-two', 'linear', [3, 3]); array('chain-old', 'linear', [3, 5, 4], '--metadata=0.90')
array('uneven', '0', [3, 5, 4], '--chunk=16', '--layout=alternate'); array('uneven-first', '0', [3, 5, 4], '--chunk=16', '--layout=original')
array('uneven-pairs', '0', [3, 5, 3, 5, 7], '--chunk=64', '--layout=alternate'); array('uneven-pairs-first', '0', [3, 5, 3, 5, 7], '--chunk=64', '--layout=original')
array('even', '0', [4, 4, 4], '--chunk=16', '--layout=dangerous')
group('stripes', SIX, {'two': [f'lvcreate {ZERO} -i2 -I16k -L3m -nLV VG'], 'three': [f'lvcreate {ZERO} -i3 -I4k -L3m -nLV VG'], 'grown': [f'lvcreate {ZERO} -L1m -nLV VG', 'lvextend -y -i2 -I8k -L+2m VG/LV']})
for kind, legs in (('raid1', '-m1'), ('raid1', '-m2')): group(f'mirror{legs[2]}', SIX, {'kelp': [f'lvcreate {ZERO} --type {kind} {legs} -L3m -nLV VG']})
group('oldmirror', SIX, {'kelp': [f'lvcreate {ZERO} --type mirror -m1 --mirrorlog core -L3m -nLV VG']})
for kind in ('raid0', 'raid0_meta', 'raid4', 'raid5_ls', 'raid5_la', 'raid5_rs', 'raid5_ra', 'raid5_n', 'raid6_zr', 'raid6_nr', 'raid6_nc', 'raid6_ls_6', 'raid6_la_6', 'raid6_rs_6', 'raid6_ra_6', 'raid6_n_6', 'raid10'):
    stripes = '-i2' if kind in ('raid10', 'raid0', 'raid0_meta') else '-i3'
    group(kind.replace('_', '-'), SIX, {'kelp': [f'lvcreate {ZERO} --nosync --type {kind} {stripes} -I4k -L3m -nLV VG' if kind not in ('raid0', 'raid0_meta') and not kind.startswith('raid6') else f'lvcreate {ZERO} --type {kind} {stripes} -I4k -L3m -nLV VG']})
def thin(name, loops):
    number(f'/dev/{name}/kelp', 1, range(0, 700, 3)); number(f'/dev/{name}/wrack', 500000, list(range(300)) + list(range(5000, 5100)))
    lvm('lvcreate', '-s', '-y', '-n', 'later', f'{name}/kelp'); lvm('lvchange', '-kn', f'{name}/later'); lvm('lvchange', '-ay', '-K', f'{name}/later'); sh('dmsetup', 'mknodes')
    number(f'/dev/{name}/kelp', 900000, range(100, 200)); number(f'/dev/{name}/later', 700000, range(400, 500))
group('thin', [10] * 5, {'pool': ['lvcreate -y -Zn --type thin-pool -c64k -L12m --poolmetadatasize 2m -nLV VG'], 'kelp': ['lvcreate -y -V8m --thinpool VG/pool -nLV'], 'wrack': ['lvcreate -y -V40m --thinpool VG/pool -nLV'], 'later': []}, thin)
def thin_on_mirror(name, loops): number(f'/dev/{name}/kelp', 1, range(0, 900, 2))
group('thinmirror', [10] * 5, {'pool': ['lvcreate -y -Zn --type raid1 -m1 -L4m -nLV VG', 'lvcreate -y -Zn -Wn -L2m -nmeta VG', 'lvconvert -y --type thin-pool -c128k --poolmetadata VG/meta VG/LV'], 'kelp': ['lvcreate -y -V8m --thinpool VG/pool -nLV']}, thin_on_mirror)
def stale(name, loops):
    number(f'/dev/{name}/kelp', 1); lvm('vgchange', '-an', name)
    sh('losetup', '-d', loops[0]); lvm('vgchange', '-ay', '--activationmode', 'degraded', name, quiet=True); sh('dmsetup', 'mknodes')
    number(f'/dev/{name}/kelp', 800000); lvm('vgchange', '-an', name, quiet=True)
    sh('losetup', loops[0], f'/mnt/{name}-a.img'); lvm('vgchange', '-ay', name, quiet=True); sh('dmsetup', 'mknodes')
group('stalemirror', SIX, {'kelp': [f'lvcreate {ZERO} --type raid1 -m1 -L3m -nLV VG']}, stale)
group('cached', SIX, {'kelp': [f'lvcreate {ZERO} -L3m -nLV VG', f'lvcreate -y --type cache-pool -L2m -nfast VG', 'lvconvert -y --type cache --cachemode writethrough --cachepool VG/fast VG/LV']})
group('snapped', SIX, {'kelp': [f'lvcreate {ZERO} -L3m -nLV VG', 'lvcreate -y -s -L1m -nbefore VG/LV']})
manifest.close(); print('END', flush=True); os.sync()
ctypes.CDLL(None).reboot(0x4321fedc)
'''
out = tempfile.mkdtemp(prefix='volumes-', dir='/dev/shm')
shutil.copy('/usr/sbin/mdadm', f'{ROOT}/usr/sbin/mdadm')
open(f'{ROOT}/record.py', 'w').write(GUEST.replace('OUT', out)); os.chmod(f'{ROOT}/record.py', 0o755)
subprocess.run(['linux.uml', 'mem=512M', 'con=null', 'con0=fd:0,fd:1', 'root=none', 'rootfstype=hostfs', f'rootflags={ROOT}', 'rw', 'init=/record.py'], stdin=subprocess.DEVNULL, timeout=1200, env=dict(os.environ, TMPDIR='/dev/shm', HOME='/root'))
os.remove(f'{ROOT}/record.py')
subprocess.run(f'tar --sparse --format=gnu --sort=name --mtime=@0 --owner=0 --group=0 --numeric-owner -C {out} -cf - . | zstd -19 -q -f -o {sys.argv[1]}', shell=True, check=True)
print(len(open(f'{out}/MANIFEST').read().splitlines()), 'recorded,', os.path.getsize(sys.argv[1]), 'bytes')
if '--keep' in sys.argv: print(out)
else: shutil.rmtree(out)
