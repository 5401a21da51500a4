#!/usr/bin/env python3
"""Inside the guest of make-option-lab.sh with mdadm and the kernel's md modules, as its first process: makes arrays of every
level and layout over files on the second disk, numbers their blocks, puts a file system on each, and notes the sum of what the
kernel reads from it. MANIFEST: a line each: name, sum, size, the members."""
import ctypes, hashlib, os, subprocess, time
os.environ['PATH'] = '/usr/sbin:/usr/bin:/sbin:/bin'
log = open('/dev/ttyS1', 'w', buffering=1)
def sh(*a):
    done = subprocess.run(a, stdin=subprocess.DEVNULL, capture_output=True, text=True, errors='replace')
    if done.returncode: log.write(f'{" ".join(a)}: {done.returncode} {done.stderr.strip()[:200]}\n')
    return done
for t, at in (('tmpfs', '/run'), ('tmpfs', '/tmp')): sh('mount', '-t', t, t, at)
os.makedirs('/tmp/out'); sh('mount', '/dev/vdb', '/tmp/out')
for m in ('loop', 'raid0', 'raid1', 'raid456', 'raid10'): sh('modprobe', m)
def create(name, level, disks, *more, size=3, fail=None):
    files, loops = [], []
    for n in range(disks):
        path = f'/tmp/out/{name}-{"abcdefgh"[n]}.img'
        with open(path, 'wb') as f: f.truncate(size << 20)
        files.append(path); loops.append(sh('losetup', '-f', '--show', path).stdout.strip())
    sh('mdadm', '--create', '/dev/md7', '--run', '--quiet', '--assume-clean', '--homehost=zoo', f'--name={name}', f'--level={level}', f'--raid-devices={disks}', '--bitmap=none', *more, *loops)
    sh('mdadm', '--action=repair', '/dev/md7') if level in ('4', '5', '6') else None
    sh('mdadm', '--wait', '/dev/md7')
    def number(start):
        with open('/dev/md7', 'r+b', buffering=0) as md:
            size = md.seek(0, 2)
            for block in range(size // 4096): md.seek(block * 4096); md.write((start + block).to_bytes(8, 'little'))
        os.sync()
    number(1)
    if fail is not None:
        sh('mdadm', '/dev/md7', '--fail', loops[fail]); sh('mdadm', '/dev/md7', '--remove', loops[fail]); number(1000000)
    sh('mkfs.ext4', '-q', '-F', '-b', '1024', '-L', name[:16], '-O', '^has_journal', '-E', 'nodiscard', '/dev/md7'); os.sync()
    md = open('/dev/md7', 'rb').read()
    sh('mdadm', '--stop', '/dev/md7')
    for loop in loops: sh('losetup', '-d', loop)
    manifest.write(f'{name}\t{hashlib.sha256(md).hexdigest()}\t{len(md)}\t{" ".join(os.path.basename(f) for f in files)}\n'); manifest.flush()
manifest = open('/tmp/out/MANIFEST', 'w')

create('raid0', '0', 3, '--chunk=16'); create('raid0-64', '0', 4, '--chunk=64')
create('raid4', '4', 3, '--chunk=16')
for layout in ('la', 'ra', 'ls', 'rs', 'parity-first', 'parity-last'): create(f'raid5-{layout}', '5', 4, '--chunk=16', f'--layout={layout}')
for layout in ('la', 'ra', 'ls', 'rs', 'parity-first', 'parity-last', 'ddf-zero-restart', 'ddf-N-restart', 'ddf-N-continue', 'left-asymmetric-6', 'right-asymmetric-6', 'left-symmetric-6', 'right-symmetric-6', 'parity-first-6'):
    create(f'raid6-{layout}'[:20], '6', 5, '--chunk=16', f'--layout={layout}')
for layout, disks in (('n2', 4), ('n2', 3), ('n3', 4), ('f2', 4), ('f2', 3), ('f2', 5), ('o2', 4), ('o2', 3), ('f3', 4)): create(f'raid10-{layout}-{disks}', '10', disks, '--chunk=16', f'--layout={layout}')
create('raid5-old', '5', 3, '--metadata=0.90', '--chunk=16'); create('raid10-old', '10', 4, '--metadata=0.90', '--chunk=16')
create('raid5-10', '5', 3, '--metadata=1.0', '--chunk=16'); create('raid5-11', '5', 3, '--metadata=1.1', '--chunk=16')
create('raid5-stale', '5', 4, '--chunk=16', fail=1); create('raid6-stale', '6', 5, '--chunk=16', fail=3); create('raid10-stale', '10', 4, '--chunk=16', fail=2); create('raid1-stale', '1', 2, fail=0)
manifest.close(); sh('umount', '/tmp/out'); log.write('END\n'); os.sync()
ctypes.CDLL(None).reboot(0x4321fedc)
