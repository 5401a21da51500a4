#!/usr/bin/env python3
"""Inside the guest of make-option-lab.sh, as its first process: mounts each list that the second disk names, and says on
the serial port whether mount took it, how the kernel shows it, and the first line of what was said."""
import ctypes, os, subprocess
def sh(*a): return subprocess.run(a, stdin=subprocess.DEVNULL, capture_output=True, text=True, errors='replace')
os.environ['PATH'] = '/usr/sbin:/usr/bin:/sbin:/bin'
for t, at in (('tmpfs', '/run'), ('tmpfs', '/tmp')): sh('mount', '-t', t, t, at)
sh('mount', '-o', 'remount,rw', '/')
out = open('/dev/ttyS1', 'w', buffering=1)
os.makedirs('/tmp/at'); os.makedirs('/tmp/ov', exist_ok=True)
sh('mount', '-t', 'tmpfs', 'ov', '/tmp/ov')
for d in 'luw': os.makedirs(f'/tmp/ov/{d}')
disks = {}
for part in open('/proc/cmdline').read().split('DISKS=')[1].split()[0].split(','):
    name, _, dev = part.partition(':'); disks[name] = '/dev/' + dev
data = open('/dev/vdb', 'rb').read().rstrip(b'\0').decode()
kernel = os.uname().release; program = sh('mount', '--version').stdout.split()[3]
out.write(f'BEGIN {kernel} {program}\n')
known = {l.split()[-1] for l in open('/proc/filesystems')}
def shown(at):
    for line in open('/proc/self/mountinfo'):
        f = line.split(' ')
        if f[4] == at:
            dash = f.index('-'); return f[5], f[dash + 3].strip() if len(f) > dash + 3 else ''
    return None
LAYERS = 'lowerdir=/tmp/ov/l,upperdir=/tmp/ov/u,workdir=/tmp/ov/w,'
sh('modprobe', 'loop')
for line in data.split('\n'):
    if not line: continue
    number, fstype, variant, options = line.split('\t')
    source = disks.get(f'{fstype}-{variant}', fstype)
    asked = options
    if fstype == 'overlay' and 'lowerdir' not in options: asked = LAYERS + options
    said = sh('mount', '-t', fstype, '-o', asked, source, '/tmp/at')
    how = shown('/tmp/at')
    ok = said.returncode == 0 and how is not None
    while shown('/tmp/at'):
        if sh('umount', '/tmp/at').returncode: sh('umount', '-l', '/tmp/at'); break
    if 'loop' in options or 'offset' in options or 'sizelimit' in options: sh('losetup', '-D')
    words = (said.stderr.strip().split('\n') or [''])[0][:160].replace('\t', ' ')
    out.write(f'R {number}\t{int(ok)}\t{said.returncode}\t{how[0] if how else ""}\t{how[1] if how else ""}\t{words}\n')
out.write('END\n'); out.flush(); os.sync()
ctypes.CDLL(None).reboot(0x4321fedc)
