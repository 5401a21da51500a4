#!/usr/bin/env python3
"""option-lists.py PROGRAM OUT [WORDS [TYPE...]]: mount option lists to ask kernels about, a line each: type, variant of the image, options.
Every option of every type with values of every kind, its neighbours' options, pairs of options, and the mount program's
own words. What is asked comes from the catalogue's names, never from its verdicts. With WORDS it is about the types that a
program mounts, for record-helpers.py, all or these; WORDS has further words to ask about, a type and a word a line. Another
SEED in the environment draws other pairs and another order."""
import itertools, json, os, random, re, subprocess, sys
program, out, helpers = sys.argv[1], sys.argv[2], sys.argv[3:]
rng = random.Random(int(os.environ.get('SEED', 2611)))
VARIANTS = {
    'ext4': ['default', 'nojournal', 'quota', '1k'], 'ext3': ['default'], 'ext2': ['default'], 'xfs': ['default', 'v4', 'stripe'],
    'btrfs': ['default'], 'f2fs': ['default', 'compressed'], 'vfat': ['default'], 'msdos': ['default'], 'exfat': ['default'],
    'ntfs3': ['default'], 'udf': ['default'], 'jfs': ['default'], 'nilfs2': ['default'], 'reiserfs': ['default'],
    'iso9660': ['default'], 'squashfs': ['default'], 'erofs': ['default'], 'tmpfs': ['none'], 'ramfs': ['none'],
    'overlay': ['none'], 'hugetlbfs': ['none'], 'devpts': ['none'], 'proc': ['none'], 'debugfs': ['none'], 'tracefs': ['none'],
    'bpf': ['none'], 'cgroup2': ['none'], 'mqueue': ['none'], 'sysfs': ['none'],
}
if helpers: VARIANTS = {t: ['server'] for t in helpers[1:] or ('nfs', 'nfs4', 'cifs', 'smb3', 'ntfs-3g', 'fuse.sshfs', '9p')}
# The younger names of NFS and SMB are asked the plain forms only.
BRIEF = ('nfs4', 'smb3')
# Of these the kernel's reader is asked alone, and no mount program.
READERS = ('ceph', 'virtiofs', 'bcachefs')
ELDERS = {'ext2': 'ext4', 'ext3': 'ext4', 'msdos': 'vfat', 'ramfs': 'tmpfs'}
NUMBERS = ['0', '1', '-1', '2', '3', '7', '8', '9', '010', '08', '0x10', '0X1f', '+1', '16', '63', '64', '100', '101', '512', '4095', '4096',
           '65535', '65536', '2147483647', '2147483648', '4294967294', '4294967295', '4294967296', '9223372036854775807', '18446744073709551616']
SIZES = ['4k', '4K', '64k', '32K', '256k', '1m', '2G', '1t', '1.5', '50%', '0%', '200%', '1kb', '4 k']
WORDS = ['x', '1x', 'yes', 'true', 'on', 'off', 'none', 'root', 'nobody', 'nosuchuser', 'default', 'utf8', 'cp437', 'a:b', '@', '/']
if helpers:
    NUMBERS = ['0', '1', '-1', '2', '4', '8', '010', '0x10', '+1', '64', '1024', '65535', '65536', '2147483647', '2147483648', '4294967295', '4294967296']
    SIZES, WORDS = ['4k', '1m', '50%'], ['x', '1x', 'yes', 'on', 'none', 'root', 'nosuchuser', 'utf8', 'a:b', '/']
def reference(fstype):
    said = subprocess.run([program, 'options', fstype, '--format', 'json'], capture_output=True, text=True)
    return [o for o in json.loads(said.stdout)['options'] if o['type'] in (fstype, *fstype.split('.'))] if said.returncode == 0 else []
def values(option):
    own = re.findall(r'[a-z0-9_.+-]+', option['form'] or '') if option['value'] != 'none' else []
    own = [w for w in own if w not in ('a', 'an', 'one', 'of', 'or', 'and', 'from', 'to', 'number', 'power', 'size')]
    caps = [w.capitalize() for w in own[:3]] + [w.upper() for w in own[:2]] + [w + 'x' for w in own[:2]]
    more = NUMBERS + SIZES + WORDS if option['value'] != 'none' else ['1', '0', 'x', 'yes']
    return own + caps + more
seen, rows = set(), []
def ask(fstype, variant, options):
    if options and (fstype, variant, options) not in seen:
        seen.add((fstype, variant, options)); rows.append((fstype, variant, options))
all_names = {}
for fstype in VARIANTS: all_names[fstype] = reference(ELDERS.get(fstype, fstype)) + (reference(fstype) if fstype in ELDERS else [])
strangers = [reference(t) for t in ('ext4', 'vfat', 'nfs', 'cifs', 'tmpfs')] if helpers[1:] else []
everything = sorted({o['name'] for options in [*all_names.values(), *strangers] for o in options})
for fstype, variants in VARIANTS.items():
    options = {o['name']: o for o in all_names[fstype]}
    for n, variant in enumerate(variants):
        if fstype not in READERS: ask(fstype, variant, 'defaults')
        for name, option in options.items():
            ask(fstype, variant, name)
            few = values(option)
            # Variants beside the first are asked the plain forms only.
            for value in ([''] + few if n == 0 and fstype not in BRIEF else few[:4] + ['1']): ask(fstype, variant, f'{name}={value}')
            if n or fstype in BRIEF: continue
            ask(fstype, variant, f'{name},{name}'); ask(fstype, variant, name.upper()); ask(fstype, variant, name.capitalize())
            ask(fstype, variant, name[2:] if name.startswith('no') else 'no' + name)
            ask(fstype, variant, name.replace('_', '-') if '_' in name else name.replace('-', '_')); ask(fstype, variant, f'ro,{name}')
        def sample(o):
            return o['name'] if o['value'] == 'none' else f"{o['name']}={rng.choice(values(o)[:6] + ['1'])}"
        pairs = list(itertools.permutations(options.values(), 2)); rng.shuffle(pairs)
        for a, b in pairs[:160 if n == 0 and fstype not in BRIEF else 60]: ask(fstype, variant, f'{sample(a)},{sample(b)}')
        for a in options.values():
            for b in a['excludes'] + a['conflicts'] + a['needs']: ask(fstype, variant, f"{sample(a)},{b}"); ask(fstype, variant, f"{b},{sample(a)}")
    # Each store of rclone has words of its own.
    for name in rng.sample(everything, 0 if fstype in ('rclone', *READERS) else 50): ask(fstype, variants[0], name); ask(fstype, variants[0], f'{name}=1')
FLAGS = ['ro', 'rw', 'nosuid', 'suid', 'nodev', 'dev', 'noexec', 'exec', 'sync', 'async', 'dirsync', 'mand', 'nomand', 'atime', 'noatime', 'diratime',
         'nodiratime', 'relatime', 'norelatime', 'strictatime', 'nostrictatime', 'lazytime', 'nolazytime', 'iversion', 'noiversion', 'silent',
         'loud', 'symfollow', 'nosymfollow', 'remount', 'bind', 'private', 'shared', 'slave', 'rprivate', 'unbindable', 'move', 'rbind']
OWN = ['user', 'users', 'nouser', 'owner', 'group', 'nogroup', 'noowner', 'nousers', 'user=root', '_netdev', 'nofail', 'fail', 'auto', 'noauto', 'defaults', 'comment=x', 'comment',
       'x-y', 'x-y=z', 'X-y', 'x-initrd.mount', 'x-systemd.automount', 'X-mount.mkdir', 'X-mount.mkdir=0755', 'X-mount.mkdir=x', 'X-mount.mkdir=', 'x-mount.mkdir', 'x-mount.mkdir=0700',
       'X-mount.auto-fstypes=ext4', 'X-mount.auto-fstypes=xfs', 'X-mount.owner=root', 'X-mount.owner=0', 'X-mount.owner=nosuchuser', 'X-mount.owner', 'X-mount.group=root', 'X-mount.group=nosuch', 'X-mount.mode=0755', 'X-mount.mode=x', 'X-mount.mode=', 'X-mount.noloop', 'X-mount.subdir=nosuch', 'X-mount.subdir=',
       'X-mount.nocanonicalize', 'X-mount.nocanonicalize=source', 'X-mount.idmap=0:0:1', 'X-mount.idmap=x', 'loop', 'loop=', 'loop=/dev/loop7', 'loop=x', 'noloop', 'offset=0', 'offset=4096', 'offset=x', 'offset=', 'offset', 'sizelimit=0', 'sizelimit=33554432', 'sizelimit=x', 'sizelimit=', 'sizelimit',
       'encryption=aes', 'verity.hashdevice=/dev/vdb', 'verity.roothash=00', 'verity.roothashfile=/x', 'verity.hashoffset=1', 'verity.fecdevice=/x', 'verity.fecoffset=1', 'verity.fecroots=2', 'verity.roothashsig=/x', 'verity.oncorruption=ignore', 'verity.oncorruption=x', 'verity.x',
       'uid=root', 'gid=root', 'uid=nosuchuser', 'gid=nosuchgroup', 'uid=nobody', 'gid=nogroup', 'uid=useruid', 'helper=x', 'uhelper=x', 'context=x', 'fscontext=x', 'defcontext=x', 'rootcontext=x', 'context="a:b:c"',
       'seclabel', 'noseclabel', 'smackfsroot=x', 'smackfsdef=x', 'umask=022', 'mode=0755', 'nodefaults', 'rw=recursive', 'ro=recursive', 'ro=vfs', 'ro=fs', 'noexec=recursive', 'nosuid=vfs', 'noatime=recursive', 'nosymfollow=recursive', 'ro=x', 'rw=x', 'noatime=x', 'quota', 'usrquota', 'x', '', ',', 'ro,', ',ro', 'ro,,rw', ' ro', 'ro ', 'RO', 'Ro', 'ro=1', 'noatime=1', 'nofail=1', 'lazytime=1']
for fstype in helpers[1:] or ('nfs', 'cifs', 'ntfs-3g', 'fuse.sshfs') if helpers else ('ext4', 'xfs', 'btrfs', 'vfat', 'exfat', 'tmpfs', 'iso9660', 'f2fs'):
    if fstype in READERS: continue
    variant = VARIANTS[fstype][0]
    for word in FLAGS + OWN: ask(fstype, variant, word)
    flags = [f for f in FLAGS if f not in ('remount', 'bind', 'move', 'rbind', 'private', 'shared', 'slave', 'rprivate', 'unbindable')]
    for a, b in rng.sample(list(itertools.permutations(flags, 2)), 150): ask(fstype, variant, f'{a},{b}')
    for a, b, c in rng.sample(list(itertools.permutations(flags, 3)), 60): ask(fstype, variant, f'{a},{b},{c}')
for line in open(helpers[0]) if helpers else ():
    fstype, word = line.split()
    if fstype not in VARIANTS: continue
    for form in ('', '=1', '=x'): ask(fstype, 'server', word + form)
# Quick to be resumed, and each part of it a fair sample.
rng.shuffle(rows)
with open(out, 'w') as f:
    for row in rows: f.write('\t'.join(row) + '\n')
print(len(rows), 'lists')
