#!/usr/bin/env python3
"""Records what the kernel itself does with root where no initramfs is before it: a kernel in user mode is started with
one command line after the other, on a disk of its own with a partition table. Only the kernel's part is recorded: root
mounted and the first program found, a panic, or a wait that does not end within the limit.
Needs user-mode-linux, e2fsprogs, xfsprogs, fdisk, root.

Usage: record-kernel-root.py OUT.jsonl"""
import json, os, re, subprocess, sys, tempfile, time
PART = 'a1f0c3d2-5b6e-4c7d-8e9f-00112233440'
CASES = []
def c(id, line, **kw): CASES.append(dict(id=id, cmdline=line, **kw))
for how in ('/dev/ubda1', 'ubda1', '98:1', '6201', f'PARTUUID={PART}1', f'PARTUUID={PART.upper()}1', f'PARTUUID={PART}2/PARTNROFF=-1', 'PARTLABEL=hull',
            'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001', 'LABEL=hull', f'/dev/disk/by-partuuid/{PART}1', '/dev/disk/by-label/hull', '/dev/mapper/tides-root', '/dev/md0', '/dev/ubda9',
            f'PARTUUID={PART}9', 'PARTLABEL=absent', '98:9', '8:1', '/dev/ubda2', '/dev/ubda3', '/dev/ubda4', '/dev/ubda', '/dev/ram0', '/dev/nfs', '', 'PARTUUID=', 'PARTUUID=short', 'UUID=', '/dev/root'):
    c('root ' + how, 'root=' + how)
c('no root', '')
for how in ('/dev/ubda1', '/dev/ubda9', 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001', 'LABEL=hull', f'PARTUUID={PART}9', 'PARTLABEL=absent', '98:9', '/dev/mapper/tides-root', '/dev/ubda2', '', '/dev/disk/by-label/hull'):
    c('rootwait ' + how, f'root={how} rootwait')
G = 'root=/dev/ubda1 '
c('rootwait number', 'root=/dev/ubda9 rootwait=3')
c('rootdelay', G + 'rootdelay=4')
c('rootdelay lost', 'root=/dev/ubda9 rootdelay=4')
for t in ('ext4', 'ext3', 'ext2', 'xfs', 'ext5', 'xfs,ext4', 'ext5,ext4', 'vfat', 'auto', ''): c('type ' + t, G + 'rootfstype=' + t)
for f in ('errors=remount-ro', 'noatme', 'data=journal', 'defaults', 'noatime', 'nofail', 'subvol=@', 'ro', 'rw', 'data=writeback,noatme', ''): c('flags ' + f, G + 'rootflags=' + f)
c('type of the other', 'root=/dev/ubda4 rootfstype=ext4')
c('rw', G + 'rw'); c('ro', G + 'ro'); c('rw ro', G + 'rw ro')
c('twice', 'root=/dev/ubda9 root=/dev/ubda1'); c('twice lost', 'root=/dev/ubda1 root=/dev/ubda9')
c('init absent', G + 'init=/bin/absent'); c('panic', 'root=/dev/ubda9 panic=1')
for how in ('/dev/ubdz1', '/dev/sda1', 'ubda1', '62:01', '0x6201', '6209', 'PARTLABEL=hull', f'PARTUUID={PART}1', '/dev/md0', 'PARTUUID=', f'PARTUUID={PART}3'): c('rootwait ' + how, f'root={how} rootwait')
for how in ('/dev/ubdz1', '62:01', '0x6201', '98:4', '6204', f'PARTUUID={PART}4', f'PARTUUID={PART}3/PARTNROFF=1', f'PARTUUID={PART}1/PARTNROFF=1', f'PARTUUID={PART}1/PARTNROFF=8', f'PARTUUID={PART}1/NONSENSE', 'PARTLABEL=silo', 'PARTLABEL=HULL', f'partuuid={PART}1', '/dev/ubda1/', '//dev/ubda1', '/dev/UBDA1', 'hull', 'tmpfs', '/dev/cifs'): c('root ' + how, 'root=' + how)
for f in ('lazytime', 'sync', 'async', 'dirsync', 'mand', 'nomand', 'nosuid', 'nodev', 'noexec', 'relatime', 'strictatime', 'nodiratime', '_netdev', 'x-systemd.growfs', 'errors=continue,commit=5', 'commit=x', 'discard', 'nodelalloc', 'acl', 'noload', 'silent', 'loud', 'remount', 'iversion', 'nolazytime', 'exec', 'suid', 'data=journal,delalloc', 'noauto', 'user', 'ro,noload'): c('flags ' + f, G + 'rootflags=' + f)
for f in ('logbufs=4', 'inode64', 'noquota', 'logbufs=99', 'errors=remount-ro', 'noatime', 'norecovery', 'ro,norecovery', 'nouuid', 'usrquota'): c('silo flags ' + f, 'root=/dev/ubda4 rootflags=' + f)
for t in ('xfs', 'ext4,xfs', 'btrfs,xfs', 'btrfs', 'nosuch,xfs', 'xfs,nosuch', 'XFS'): c('silo type ' + t, 'root=/dev/ubda4 rootfstype=' + t)
c('silo rw', 'root=/dev/ubda4 rw'); c('silo rw norecovery', 'root=/dev/ubda4 rw rootflags=norecovery')
for how in ('PARTUUID=a1f0c3d2-5b6e', 'PARTUUID=a1f0c3d2-5b6e-4c7d-8e9f-0011223344012', 'PARTLABEL=', 'PARTLABEL=hul', f'PARTUUID={PART}1/', f'PARTUUID={PART}1/PARTNROFF=', f'PARTUUID={PART}1/PARTNROFF=0', f'PARTUUID={PART}1/PARTNROFF=3x', f'PARTUUID={PART}2/PARTNROFF=2', '98:1:', '98:', '0', '6201 ', 'fade', '62011', '/dev/ubda1p1', '/dev/ubdap1', '/dev/ubda01', '/dev/ubdb', '/dev/', '/dev'):
    c('root ' + how, 'root=' + how); c('rootwait ' + how, f'root={how} rootwait')
for line in ('root=/dev/ubda1 rootfstype=ext4 rootfstype=xfs', 'root=/dev/ubda1 rootflags=noatime rootflags=commit=9', 'root=/dev/ubda1 rootflags=commit=9 rootflags=noatime', 'rootwait root=/dev/ubdz1 root=/dev/ubda1', 'ROOT=/dev/ubda1', 'root=/dev/ubda1 rootwait=x', 'root=/dev/ubdz1 rootwait=x', 'root=/dev/ubda1 rootdelay=x', "root='/dev/ubda1'", 'root=/dev/ubda1 rootfstype="ext4"', 'root=/dev/ubda1 rootflags="commit=9"', 'root=/dev/ubda1 init=', 'root=/dev/ubda1 init=relative', 'root=/dev/ubda1 rdinit=/bin/absent'): c('line ' + line, line)
c('quoted', 'root="/dev/ubda1"'); c('blank flags', G + 'rootflags="noatime"')
LIMIT = 12

def disk(folder):
    path = f'{folder}/disk'
    subprocess.run(['truncate', '-s', '700M', path], check=True)
    table = 'label: gpt\n' + ''.join(f'size={size}M, uuid={PART}{n}, name={name}\n' for n, size, name in ((1, 60, 'hull'), (2, 60, 'reserve'), (3, 60, 'bare'), (4, 330, 'silo')))
    subprocess.run(['sfdisk', '-q', path], input=table.encode(), check=True)
    starts = {p['node'][-1]: (p['start'], p['size']) for p in json.loads(subprocess.run(['sfdisk', '-J', path], capture_output=True, check=True).stdout)['partitiontable']['partitions']}
    tree = f'{folder}/tree'
    for d in ('sbin', 'bin', 'dev', 'proc', 'etc'): os.makedirs(f'{tree}/{d}')
    for p in ('sbin/init', 'bin/sh'):
        open(f'{tree}/{p}', 'w').write('never run to its end\n'); os.chmod(f'{tree}/{p}', 0o755)
    for n, make in (('1', ['mke2fs', '-q', '-t', 'ext4', '-L', 'hull', '-U', '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001', '-d', tree]), ('2', ['mkswap', '-q', '-L', 'reserve']), ('4', ['mkfs.xfs', '-q', '-f', '-L', 'silo'])):
        start, size = starts[n]; part = f'{folder}/p{n}'
        subprocess.run(['truncate', '-s', str(size * 512), part], check=True)
        subprocess.run(make + [part], check=True, capture_output=True)
        subprocess.run(['dd', f'if={part}', f'of={path}', 'bs=1M', f'seek={start * 512 // 2**20}', 'conv=notrunc,sparse', 'status=none'], check=True)
        assert start * 512 % 2**20 == 0
    return path

def boot(case, path, folder):
    cow = f'{folder}/cow'
    command = ['linux.uml', 'mem=128M', f'ubd0={cow},{path}', 'con=null', 'con0=fd:0,fd:1', *case['cmdline'].split(' ')]
    with open(f'{folder}/console', 'wb') as out:
        p = subprocess.Popen([w for w in command if w], stdin=subprocess.DEVNULL, stdout=out, stderr=out, start_new_session=True, env=dict(os.environ, TMPDIR='/dev/shm', HOME='/root'))
        began = time.time()
        while p.poll() is None and time.time() - began < LIMIT: time.sleep(0.1)
        waits = p.poll() is None
        if waits: os.killpg(p.pid, 9); p.wait()
    if os.path.exists(cow): os.remove(cow)
    text = re.sub(r'\x1b\[[0-9;?]*[a-zA-Z]', '', open(f'{folder}/console', errors='replace').read().replace('\r', ''))
    said = [l.strip() for l in text.split('\n') if re.search(r'VFS|panic|Waiting|root device|Run .* as init|Requested init|Disabling rootwait|EXT4-fs|XFS|Unknown parameter|mount', l) and '[<' not in l]
    mounted = re.search(r'VFS: Mounted root \((\w+) filesystem\)( readonly)? on device (\S+)\.', text)
    began = re.findall(r'Run (\S+) as init process', text)
    ending = 'no-init' if re.search('Requested init .* failed', text) else 'root' if mounted else 'waits' if waits else 'panic'
    return dict(case, ending=ending, fstype=mounted and mounted.group(1), read_only=bool(mounted and mounted.group(2)), on=mounted and mounted.group(3), began=began[:1], version=(re.search(r'Linux version (\S+)', text) or [None, None])[1], said=[re.sub(r'^\[ *[\d.]+\] ', '', l) for l in said][:14])

with tempfile.TemporaryDirectory(dir='/dev/shm') as folder:
    path = disk(folder)
    with open(sys.argv[1], 'w') as out:
        for case in CASES:
            got = boot(case, path, folder)
            print(json.dumps(got), file=out, flush=True)
            print(got['id'], '→', got['ending'], got['fstype'], got['on'], flush=True)
