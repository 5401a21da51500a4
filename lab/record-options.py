#!/usr/bin/env python3
"""Inside the guest of make-option-lab.sh, as its first process: mounts each list that the second disk names, and says on
the serial port whether mount took it, how the kernel shows it, and the first line of what was said. In a root directory it
asks the running kernel as well, and writes what run-options.py writes: IMAGES=DIRECTORY LISTS=.. REPORT=.. unshare -mnpf
chroot ROOT python3 record-options.py"""
import ctypes, json, os, shutil, subprocess
def sh(*a): return subprocess.run(a, stdin=subprocess.DEVNULL, capture_output=True, text=True, errors='replace')
os.environ['PATH'] = '/usr/sbin:/usr/bin:/sbin:/bin'
for t, at in (('tmpfs', '/run'), ('tmpfs', '/tmp')): sh('mount', '-t', t, t, at)
sh('mount', '-o', 'remount,rw', '/')
images = os.environ.get('IMAGES')
if os.path.exists('/policy'):
    # The security server of the kernel is given its policy; it warns, and forbids nothing.
    os.makedirs('/etc/selinux', exist_ok=True); open('/etc/selinux/config', 'w').write('SELINUX=permissive\nSELINUXTYPE=default\n')
    sh('mount', '-t', 'selinuxfs', 'selinuxfs', '/sys/fs/selinux')
    with open('/sys/fs/selinux/load', 'wb', buffering=0) as load: load.write(open('/policy', 'rb').read())
if images: sh('mount', '-t', 'proc', 'proc', '/proc')
out = open(os.environ.get('REPORT', '/dev/ttyS1'), 'w', buffering=1)
os.makedirs('/tmp/at'); os.makedirs('/tmp/ov', exist_ok=True)
sh('mount', '-t', 'tmpfs', 'ov', '/tmp/ov')
for d in 'luw': os.makedirs(f'/tmp/ov/{d}')
disks = {}
for part in () if images else open('/proc/cmdline').read().split('DISKS=')[1].split()[0].split(','):
    name, _, dev = part.partition(':'); disks[name] = '/dev/' + dev
data = open(os.environ.get('LISTS', '/dev/vdb'), 'rb').read().rstrip(b'\0').decode()
kernel = os.uname().release; program = sh('mount', '--version').stdout.split()[3]
if not images: out.write(f'BEGIN {kernel} {program}\n')
known = {l.split()[-1] for l in open('/proc/filesystems')}
def shown(at):
    for line in open('/proc/self/mountinfo'):
        f = line.split(' ')
        if f[4] == at:
            dash = f.index('-'); return f[5], f[dash + 3].strip() if len(f) > dash + 3 else ''
    return None
LAYERS = 'lowerdir=/tmp/ov/l,upperdir=/tmp/ov/u,workdir=/tmp/ov/w,'
sh('modprobe', 'loop')
loops = {}
def device(name):
    """A loop device of a copy of an image, a new one now and then: what a mount writes goes on."""
    path = f'{images}/{name}'
    if not os.path.exists(path): return None
    at, uses = loops.get(name, ('', 99))
    if uses > 20 or not os.path.exists(f'/sys/block/{at[5:]}/loop/backing_file'):
        if at: sh('losetup', '-d', at)
        shutil.rmtree('/tmp/copy-' + name, True); os.makedirs('/tmp/copy-' + name)
        sh('cp', '--sparse=always', path, f'/tmp/copy-{name}/image')
        at, uses = sh('losetup', '-f', '--show', f'/tmp/copy-{name}/image').stdout.strip(), 0
    loops[name] = at, uses + 1
    return at
for count, line in enumerate(data.split('\n')):
    if not line: continue
    number, fstype, variant, options = (str(count), *line.split('\t')) if images else line.split('\t')
    source = (device(f'{fstype}-{variant}') if images else disks.get(f'{fstype}-{variant}')) or fstype
    asked = options
    if fstype == 'overlay' and 'lowerdir' not in options: asked = LAYERS + options
    said = sh('mount', '-t', fstype, '-o', asked, source, '/tmp/at')
    how = shown('/tmp/at')
    ok = said.returncode == 0 and how is not None
    if images and not ok and not how:
        # What lists before have left behind is out of the way.
        loops.pop(f'{fstype}-{variant}', None)
        sh('rm', '-rf', '/tmp/ov/u', '/tmp/ov/w')
        for d in 'uw': os.makedirs(f'/tmp/ov/{d}')
        source = device(f'{fstype}-{variant}') or fstype
        said = sh('mount', '-t', fstype, '-o', asked, source, '/tmp/at')
        how = shown('/tmp/at')
        ok = said.returncode == 0 and how is not None
    while shown('/tmp/at'):
        if sh('umount', '/tmp/at').returncode: sh('umount', '-l', '/tmp/at'); break
    if not images and ('loop' in options or 'offset' in options or 'sizelimit' in options): sh('losetup', '-D')
    words = (said.stderr.strip().split('\n') or [''])[0][:160].replace('\t', ' ')
    if images:
        out.write(json.dumps(dict(type=fstype, variant=variant, options=options, kernel=kernel, program=program, accepted=ok, exit=said.returncode,
                                  mount_opts=how[0] if how else '', super_opts=how[1] if how else '', said=words)) + '\n')
        continue
    out.write(f'R {number}\t{int(ok)}\t{said.returncode}\t{how[0] if how else ""}\t{how[1] if how else ""}\t{words}\n')
if images: raise SystemExit
out.write('END\n'); out.flush(); os.sync()
ctypes.CDLL(None).reboot(0x4321fedc)
