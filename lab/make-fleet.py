#!/usr/bin/env python3
"""make-fleet.py COUNT OUT [--bulk]: COUNT made-up hosts, derived from those of demo/, always the same.
OUT is a folder (a record each) or a file that ends in .jsonl (a record a line). --bulk adds what a survey of a whole
system has beside: accounts, modules, the mounts of the kernel's own folders, names of disks."""
import json, os, random, re, sys, uuid

count, out = int(sys.argv[1]), sys.argv[2]
bulk = '--bulk' in sys.argv
rng = random.Random(20)
demo = os.path.join(os.path.dirname(os.path.abspath(__file__)), '..', 'demo')
base = {name: open(os.path.join(demo, name + '.json')).read()
        for name in ('quayside', 'sounding', 'mooring', 'bellbuoy', 'archive')}
UUID = re.compile(r'[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}')
ROLES = [('gauge', 'quayside')] * 12 + [('model', 'sounding')] * 4 + [('store', 'mooring')] * 4 + \
        [('wave', 'bellbuoy')] * 2 + [('archive', 'archive')] * 2

def fresh(): return str(uuid.UUID(int=rng.getrandbits(128), version=4))

def renewed(text):
    names = {}
    return UUID.sub(lambda m: names.setdefault(m.group(), fresh()), text)

def table(record, change):
    record['tables'][0]['text'] = change(record['tables'][0]['text'])

def held(record, fstype):
    return next(d['content'] for d in record['devices'] if d.get('content', {}).get('type') == fstype)

def mended(record, role):
    """Takes the planted faults of the demo host out again."""
    if role == 'model':
        swap = held(record, 'swap')['uuid']
        table(record, lambda t: re.sub(r'UUID=\S+(\s+none\s+swap)', rf'UUID={swap}\1', t))
    if role == 'store':
        table(record, lambda t: t.replace('noatime,nobarrier', 'noatime').replace('/srv/copy     ext4  defaults ', '/srv/copy     ext4  noauto,nofail '))
    if role == 'wave':
        xfs = [d['content']['uuid'] for d in record['devices'] if d.get('content', {}).get('type') == 'xfs']
        root = re.search(r'UUID=(\S+)\s+/\s', record['tables'][0]['text']).group(1)
        other = next((u for u in xfs if u != root), root)
        table(record, lambda t: re.sub(r'UUID=\S+(\s+/var/lib/waves)', rf'UUID={other}\1', t))

def fault(record, role, n):
    """What somebody did by hand to one host in a few."""
    kind = rng.randrange(40)
    if role == 'gauge' and n == 7:
        table(record, lambda t: re.sub(r'UUID=\S+ /srv/tides   xfs     noatime,nofail   ', '/dev/sdb1 /srv/tides   ext4    defaults,data=writeback', t))
    elif role == 'gauge' and kind == 0:
        table(record, lambda t: re.sub(r'UUID=\S+ (/srv/tides.*)noatime,nofail', rf'UUID={fresh()} \1defaults', t))
    elif role == 'gauge' and kind in (1, 2):
        table(record, lambda t: t.replace('size=2G', 'size=2GG'))
    elif role == 'gauge' and kind == 3:
        table(record, lambda t: t.replace('noatime,nofail', 'noatime'))

def add_bulk(record, n):
    users = ['root', 'daemon', 'bin', 'sys', 'sync', 'mail', 'backup', 'nobody', 'sshd', 'tide', 'gauge', 'ops']
    record['accounts'] = {'users': {u: (0 if u == 'root' else 1000 + i) for i, u in enumerate(users)},
                          'groups': {u: (0 if u == 'root' else 1000 + i) for i, u in enumerate(users + ['disk', 'adm', 'sudo'])}}
    types = 'ext2 ext3 ext4 xfs btrfs vfat exfat msdos iso9660 udf nfs nfs4 cifs squashfs overlay fuse f2fs nilfs2 jfs ntfs3 9p'.split()
    record['filesystems'] = {'on_devices': types[:5], 'without_device': ['proc', 'sysfs', 'tmpfs', 'devtmpfs', 'cgroup2'], 'modules': sorted(types)}
    api = [('proc', '/proc', 'proc'), ('sysfs', '/sys', 'sysfs'), ('udev', '/dev', 'devtmpfs'), ('devpts', '/dev/pts', 'devpts'),
           ('tmpfs', '/run', 'tmpfs'), ('securityfs', '/sys/kernel/security', 'securityfs'), ('tmpfs', '/dev/shm', 'tmpfs'),
           ('cgroup2', '/sys/fs/cgroup', 'cgroup2'), ('pstore', '/sys/fs/pstore', 'pstore'), ('bpf', '/sys/fs/bpf', 'bpf'),
           ('mqueue', '/dev/mqueue', 'mqueue'), ('hugetlbfs', '/dev/hugepages', 'hugetlbfs'), ('debugfs', '/sys/kernel/debug', 'debugfs'),
           ('tracefs', '/sys/kernel/tracing', 'tracefs'), ('configfs', '/sys/kernel/config', 'configfs'), ('tmpfs', '/run/lock', 'tmpfs')]
    extra = [dict(source=s, target=t, type=k, options='rw,nosuid,nodev,noexec,relatime', root='/', device=f'0:{i + 20}') for i, (s, t, k) in enumerate(api)]
    record['mounts'] = (record.get('mounts') or []) + [m for m in extra if not any(o['target'] == m['target'] for o in record.get('mounts') or [])]
    for i, device in enumerate(record['devices']):
        links = set(device.get('links') or [])
        links.add(f"/dev/disk/by-path/pci-0000:00:1f.2-ata-{i + 1}")
        links.add(f"/dev/disk/by-id/wwn-0x{rng.getrandbits(64):016x}")
        device['links'] = sorted(links)

lines = out.endswith('.jsonl')
if lines: sink = open(out, 'w')
else: os.makedirs(out, exist_ok=True)
seen = {}
for n in range(count):
    role, name = ROLES[n % len(ROLES)]
    seen[role] = seen.get(role, 0) + 1
    record = json.loads(renewed(base[name]))
    host = f'{role}-{seen[role]:0{max(2, len(str(count)))}}'
    record['host'].update(name=host, roles=[role])
    mended(record, role) if not (role == 'model' and seen[role] == 3) else None
    fault(record, role, seen[role])
    if bulk: add_bulk(record, n)
    text = json.dumps(record)
    if lines: sink.write(text + '\n')
    else: open(os.path.join(out, host + '.json'), 'w').write(text)
