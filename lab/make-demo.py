#!/usr/bin/env python3
"""Writes the demo's host records, demo/*.json: the made-up hosts of the Saltmarsh tidal observatory."""
import json, pathlib

OUT = pathlib.Path(__file__).resolve().parent.parent / 'demo'
GIB = 1 << 30
TAKEN = 1795424400  # seconds since 1970


def content(kind, type=None, uuid=None, label=None, size=None, version=None, block=4096):
    c = dict(kind=kind, type=type, uuid=uuid, label=label, version=version, size=size, block_size=block)
    return {k: v for k, v in c.items() if v is not None}


def fs(type, uuid, label=None, size=None):
    version = {'ext4': '1.0', 'xfs': '5', 'vfat': 'FAT32'}.get(type)
    return content('filesystem', type, uuid, label, size, version)


def swap(uuid, label=None, size=None):
    return content('swap', 'swap', uuid, label, size, '1')


def disk(path, size, major, minor, holds=None, model=None, removable=False, rotational=False):
    d = dict(path=path, kind='disk', major=major, minor=minor, size=size, sector_size=512, read_only=False,
             removable=removable, rotational=rotational, parents=[], children=[], links=[])
    if model: d['model'] = model
    if holds: d['content'] = holds
    return d


def part(parent, number, start, size, partuuid, holds, label=None):
    sep = 'p' if parent['path'][-1].isdigit() else ''
    path = f"{parent['path']}{sep}{number}"
    parent['children'].append(path)
    kind = 'dos' if len(partuuid) == 11 else 'gpt'
    table = parent.setdefault('content', dict(content('partition-table', kind, partuuid[:8] if kind == 'dos' else '1' + partuuid[1:-2] + '00', block=512), partitions=[]))
    entry = dict(number=number, start=start, size=size, uuid=partuuid, type=TYPES[kind][holds['type']])
    if label: entry['label'] = label
    table['partitions'].append(entry)
    links = [f'/dev/disk/by-partuuid/{partuuid}']
    if holds.get('uuid'): links.append(f"/dev/disk/by-uuid/{holds['uuid']}")
    if holds.get('label'): links.append(f"/dev/disk/by-label/{holds['label']}")
    p = dict(number=number, start=start, uuid=partuuid, type=TYPES[kind][holds['type']], type_words=WORDS[TYPES[kind][holds['type']]])
    if label: p['label'] = label
    return dict(path=path, kind='partition', major=parent['major'], minor=parent['minor'] + number, size=size,
                sector_size=512, read_only=False, removable=parent['removable'], rotational=parent['rotational'],
                partition=p, parents=[parent['path']], children=[], links=sorted(links),
                content=dict(holds, size=size) if holds['kind'] in ('filesystem', 'swap') else holds)


def mount(source, target, type, options):
    return dict(source=source, target=target, type=type, options=options, root='/')


def folder(path, entries=0, on='/'):
    return dict(path=path, kind='directory', entries=entries, uid=0, mode=0o755, lies_on=on)


def record(name, table, devices, mounts, swaps, paths, memory, os=('Debian GNU/Linux 12 (bookworm)', 'debian', '12'),
           kernel='6.1.0-37-amd64', arch='x86_64', root='', init='252', programs=(), extra_types=()):
    modules = sorted({'btrfs', 'exfat', 'ext4', 'fuse', 'iso9660', 'ntfs3', 'nfs', 'nfs4', 'overlay', 'squashfs', 'udf', 'vfat', 'xfs'} | set(extra_types))
    return {
        'schema': 'bradawl.record/1',
        'host': dict(name=name, origin='live', os=os[0], os_id=os[1], os_version=os[2], kernel=kernel, architecture=arch,
                     page_size=4096, init=dict(kind='systemd', version=init, running=True), taken_at_s=TAKEN, privileges=dict(uid=0)),
        'unread': [],
        'tables': [dict(path='/etc/fstab', text=table, mode=0o644, uid=0, gid=0)],
        'devices': devices, 'links_complete': True,
        'mounts': mounts, 'swaps': swaps, 'units': [],
        'memory': dict(total=memory, swap_total=sum(s['size'] for s in swaps), swap_free=sum(s['size'] - s['used'] for s in swaps)),
        'filesystems': dict(on_devices=['ext3', 'ext2', 'ext4', 'vfat', 'xfs'], without_device=['sysfs', 'tmpfs', 'proc', 'devtmpfs', 'devpts', 'cgroup2', 'ramfs', 'autofs'], modules=modules),
        'programs': dict(mount_helpers=sorted({'fuse'} | set(programs)), checkers=['btrfs', 'ext2', 'ext3', 'ext4', 'vfat', 'xfs']),
        'paths': paths,
        'command_line': f'BOOT_IMAGE=/vmlinuz-{kernel} root={root} ro quiet',
    }


TYPES = {
    'gpt': dict(vfat='c12a7328-f81f-11d2-ba4b-00a0c93ec93b', swap='0657fd6d-a4ab-43c4-84e5-0933c84b4f4f',
                **dict.fromkeys(['ext4', 'xfs', 'btrfs'], '0fc63daf-8483-4772-8e79-3d69d8477de4')),
    'dos': dict(vfat='0x0c', swap='0x82', ext4='0x83'),
}


WORDS = {'c12a7328-f81f-11d2-ba4b-00a0c93ec93b': 'EFI system', '0657fd6d-a4ab-43c4-84e5-0933c84b4f4f': 'Linux swap',
         '0fc63daf-8483-4772-8e79-3d69d8477de4': 'Linux', '0x0c': 'FAT32 (LBA)', '0x82': 'Linux swap', '0x83': 'Linux'}


def unit(path, kind):
    """The init system's name for a path (systemd.unit(5))."""
    if path == '/': return '-.' + kind
    kept = lambda c: c if c.isalnum() or c in ':_.' else '-' if c == '/' else f'\\x{ord(c):02x}'
    return ''.join(map(kept, path.strip('/'))) + '.' + kind


def ran(*jobs):
    """A boot: jobs as (unit, began, ended, result), in seconds since the kernel began; the init system's begin at 3.2 s."""
    told = [dict(unit=u, **({'began_s': b} if b is not None else {}), ended_s=e, result=r) for u, b, e, r in jobs]
    return [dict(offset=0, id='5a17e0b2c93d4f68a1b7d2e4c6f80913', began_s=TAKEN - 5 * 86400, init_at_s=3.2, jobs=told)]


def last_boots(hosts):
    """The last boots of two hosts: one as forecast, and one whose vault came too late."""
    by_uuid = lambda uuid: unit(f'/dev/disk/by-uuid/{uuid}', 'device')
    hosts['quayside']['boots'] = ran(
        ('systemd-remount-fs.service', 4.1, 4.3, 'done'), (by_uuid('6A1C-0F3E'), None, 4.9, 'done'),
        (by_uuid('19e7a4d3-b2c6-4f58-8a1d-60c93e5f7b24'), None, 4.9, 'done'),
        ('dev-disk-by\\x2duuid-19e7a4d3\\x2db2c6\\x2d4f58\\x2d8a1d\\x2d60c93e5f7b24.swap', 5.0, 5.1, 'done'),
        ('tmp.mount', 4.0, 4.1, 'done'), (by_uuid('f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f6'), None, 7.4, 'done'),
        ('systemd-fsck@dev-disk-by\\x2duuid-6A1C\\x2d0F3E.service', 5.0, 7.2, 'done'), ('boot-efi.mount', 7.2, 7.3, 'done'),
        ('local-fs.target', None, 7.3, 'done'), ('srv-tides.mount', 7.5, 8.9, 'done'),
        ('multi-user.target', None, 11.6, 'done'))
    archive = hosts['archive']
    vault = unit('/dev/disk/by-label/vault', 'device')
    archive['boots'] = ran(
        *[(unit(t, 'mount'), 4.4, 4.6, 'done') for t in ('/home', '/.snapshots', '/boot', '/var/tmp/ingest')],
        (unit('/dev/disk/by-uuid/cb3e9f05-47a1-4d68-a2b9-e1f50c8d7364', 'swap'), 4.8, 4.9, 'done'),
        ('net-tides.automount', 4.3, 4.3, 'done'), ('local-fs.target', None, 4.7, 'done'),
        ('multi-user.target', None, 14.8, 'done'), (vault, None, 93.3, 'timeout'),
        ('srv-vault.mount', None, 93.3, 'dependency'), ('srv-export.mount', None, 93.3, 'dependency'))


def active(path, size, used=0, priority=-2):
    return dict(path=path, size=size, used=used, priority=priority)


def quayside():
    """Sound: the way a table should look."""
    sda = disk('/dev/sda', 256 * GIB, 8, 0, model='Halyard SD256')
    sdb = disk('/dev/sdb', 2000 * 10**9, 8, 16, model='Halyard HD2000', rotational=True)
    sdc = disk('/dev/sdc', 4000 * 10**9, 8, 32, content('empty', block=None), 'Halyard HD4000', rotational=True)
    devs = [sda,
            part(sda, 1, 1 << 20, 512 << 20, '7d4a2c10-51fe-4b0c-8c70-2f9a6c3e1d01', fs('vfat', '6A1C-0F3E', 'EFI')),
            part(sda, 2, 513 << 20, 238 * GIB, '7d4a2c10-51fe-4b0c-8c70-2f9a6c3e1d02', fs('ext4', 'c5b1f7e2-3d84-4a6f-9e05-71f0b2a9d4c8', 'hull')),
            part(sda, 3, 239 * GIB, 16 * GIB, '7d4a2c10-51fe-4b0c-8c70-2f9a6c3e1d03', swap('19e7a4d3-b2c6-4f58-8a1d-60c93e5f7b24')),
            sdb,
            part(sdb, 1, 1 << 20, 2000 * 10**9 - (2 << 20), '0c2f9b71-84ad-4e36-b5d9-1a7e6f403c01', fs('xfs', 'f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f6', 'tides')), sdc]
    table = '''# Saltmarsh tidal observatory, quayside: the gauge server.
# <source>                                <target>     <type>  <options>                <dump> <pass>
UUID=c5b1f7e2-3d84-4a6f-9e05-71f0b2a9d4c8 /            ext4    errors=remount-ro        0      1
UUID=6A1C-0F3E                            /boot/efi    vfat    umask=0077               0      1
UUID=19e7a4d3-b2c6-4f58-8a1d-60c93e5f7b24 none         swap    sw                       0      0
# two terabytes of readings; the gauges go on without them
UUID=f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f6 /srv/tides   xfs     noatime,nofail           0      0
tmpfs                                     /tmp         tmpfs   size=2G,nosuid,nodev     0      0
'''
    return record('quayside', table, devs,
                  [mount('/dev/sda2', '/', 'ext4', 'rw,relatime,errors=remount-ro'), mount('/dev/sda1', '/boot/efi', 'vfat', 'rw,relatime,fmask=0077,dmask=0077'),
                   mount('/dev/sdb1', '/srv/tides', 'xfs', 'rw,noatime,attr2,inode64'), mount('tmpfs', '/tmp', 'tmpfs', 'rw,nosuid,nodev,size=2097152k')],
                  [active('/dev/sda3', 16 * GIB - 4096, 48 << 20)],
                  [folder('/boot/efi'), folder('/srv/tides'), folder('/tmp')], 8 * GIB, root='UUID=c5b1f7e2-3d84-4a6f-9e05-71f0b2a9d4c8')


def sounding():
    """Swap was made anew last week; the table still has its former UUID."""
    vda = disk('/dev/vda', 64 * GIB, 254, 0)
    devs = [vda,
            part(vda, 1, 1 << 20, 59 * GIB, '3b9e0a5c-77d2-41f6-9c08-5e2d1f4a6b01', fs('ext4', '8e3f5a60-2c7b-4d19-b8e4-f1a06c9d5273')),
            part(vda, 2, 60 * GIB, 4 * GIB - (2 << 20), '3b9e0a5c-77d2-41f6-9c08-5e2d1f4a6b02', swap('d41c8b92-6f0e-4a57-93b1-2e7d5c8f0a66', 'reserve'))]
    table = '''# /etc/fstab of sounding, the depth model
UUID=8e3f5a60-2c7b-4d19-b8e4-f1a06c9d5273\t/\text4\terrors=remount-ro\t0\t1
# swap was on /dev/vda2 during installation
UUID=52a9e7f4-0b3d-4c86-a1f5-97d08e6b3c21\tnone\tswap\tsw\t0\t0
'''
    return record('sounding', table, devs, [mount('/dev/vda1', '/', 'ext4', 'rw,relatime,errors=remount-ro')],
                  [active('/dev/vda2', 4 * GIB - (2 << 20) - 4096)], [], 4 * GIB, root='UUID=8e3f5a60-2c7b-4d19-b8e4-f1a06c9d5273')


def mooring():
    """A data disk that went away, and an option that the kernel dropped."""
    sda = disk('/dev/sda', 120 * 10**9, 8, 0, model='Halyard SD120')
    sdb = disk('/dev/sdb', 4000 * 10**9, 8, 16, model='Halyard HD4000', rotational=True)
    devs = [sda,
            part(sda, 1, 1 << 20, 100 * 10**9, '91f4d2c7-0a6b-4385-bd1e-7c5f2e9a0b01', fs('ext4', '2f7d9c14-a8b5-4e60-91c3-5d0e6f8a7b42', 'hull')),
            part(sda, 2, 110 * 10**9, 8 * GIB, '91f4d2c7-0a6b-4385-bd1e-7c5f2e9a0b02', swap('a6e0c5d8-3f92-4b17-8d64-e9b1270f5c3a')),
            sdb,
            part(sdb, 1, 1 << 20, 4000 * 10**9 - (2 << 20), '5e1b7a90-c4d3-4f28-86a9-0d7f3c2e1b01', fs('xfs', '7b40d1f9-5c2e-4a83-b6f7-18e9a3c0d25e', 'series'))]
    table = '''# mooring: collects the series of all gauges
UUID=2f7d9c14-a8b5-4e60-91c3-5d0e6f8a7b42  /             ext4  errors=remount-ro         0  1
UUID=a6e0c5d8-3f92-4b17-8d64-e9b1270f5c3a  none          swap  sw                        0  0
# four terabytes, tuned by hand years ago
UUID=7b40d1f9-5c2e-4a83-b6f7-18e9a3c0d25e  /srv/series   xfs   noatime,nobarrier         0  2
# the copy; the disk is at the workshop
UUID=e83a6f57-d019-4c2b-9f48-b5c7162d0ea3  /srv/copy     ext4  defaults                  0  2
/srv/series/export                         /export       none  bind                      0  0
'''
    return record('mooring', table, devs, [mount('/dev/sda1', '/', 'ext4', 'rw,relatime,errors=remount-ro')],
                  [active('/dev/sda2', 8 * GIB - 4096)],
                  [folder('/srv/series'), folder('/srv/copy'), folder('/export'), dict(path='/srv/series/export', kind='absent')],
                  16 * GIB, root='UUID=2f7d9c14-a8b5-4e60-91c3-5d0e6f8a7b42')


def bellbuoy():
    """One digit of a UUID mistyped."""
    nvme = disk('/dev/nvme0n1', 512 * 10**9, 259, 0, model='Halyard NV512')
    devs = [nvme,
            part(nvme, 1, 1 << 20, 1 << 30, 'b87c3e05-2d91-4fa6-8b4c-6e0a9d7f1c01', fs('vfat', 'B41E-77D0')),
            part(nvme, 2, 1025 << 20, 200 * 10**9, 'b87c3e05-2d91-4fa6-8b4c-6e0a9d7f1c02', fs('xfs', '60c9e2a7-4b1d-4f85-97e0-c3d5a8f1b694', 'hull')),
            part(nvme, 3, 210 * 10**9, 300 * 10**9, 'b87c3e05-2d91-4fa6-8b4c-6e0a9d7f1c03', fs('xfs', '3ad8f0b6-95c7-4e12-a0d4-7f6b2c8e5190', 'waves'))]
    table = '''#
# /etc/fstab
# wave recorder; see the logbook of the pier
#
UUID=60c9e2a7-4b1d-4f85-97e0-c3d5a8f1b694 /                       xfs     defaults        0 0
UUID=B41E-77D0                            /boot/efi               vfat    umask=0077,shortname=winnt 0 2
UUID=3ad8f0b6-95c7-4e12-a0d4-7f6d2c8e5190 /var/lib/waves          xfs     defaults        0 0
'''
    return record('bellbuoy', table, devs,
                  [mount('/dev/nvme0n1p2', '/', 'xfs', 'rw,relatime,attr2,inode64'), mount('/dev/nvme0n1p1', '/boot/efi', 'vfat', 'rw,relatime')],
                  [], [folder('/boot/efi'), folder('/var/lib/waves')], 32 * GIB, os=('Fedora Linux 40 (Server Edition)', 'fedora', '40'),
                  kernel='6.8.5-301.fc40.x86_64', init='255', root='UUID=60c9e2a7-4b1d-4f85-97e0-c3d5a8f1b694')


def archive():
    """Many mounts, all sound."""
    sda = disk('/dev/sda', 240 * 10**9, 8, 0, model='Halyard SD240')
    sdb = disk('/dev/sdb', 8000 * 10**9, 8, 16, fs('btrfs', '94b7e1d0-6a3c-4f59-82e7-d0c5f9a1b836', 'vault'), 'Halyard HD8000', rotational=True)
    sdb['links'] = ['/dev/disk/by-label/vault', '/dev/disk/by-uuid/94b7e1d0-6a3c-4f59-82e7-d0c5f9a1b836']
    devs = [sda,
            part(sda, 1, 1 << 20, 1 << 30, '2c60f9a4-e8b7-4d13-95fa-3b1d7e0c8a01', fs('ext4', 'f5a2b8c3-71d9-4e06-b4a8-9c0e3d6f5172')),
            part(sda, 2, 1025 << 20, 200 * 10**9, '2c60f9a4-e8b7-4d13-95fa-3b1d7e0c8a02', fs('btrfs', '0e6d4b97-c8f1-4a25-8390-5f7b1c2e9da4', 'hull')),
            part(sda, 3, 210 * 10**9, 16 * GIB, '2c60f9a4-e8b7-4d13-95fa-3b1d7e0c8a03', swap('cb3e9f05-47a1-4d68-a2b9-e1f50c8d7364')), sdb]
    root = 'UUID=0e6d4b97-c8f1-4a25-8390-5f7b1c2e9da4'
    table = f'''# archive: everything ever measured
{root}  /                btrfs  subvol=@                                 0 0
{root}  /home            btrfs  subvol=@home                             0 0
{root}  /.snapshots      btrfs  subvol=@snapshots,noatime                0 0
UUID=f5a2b8c3-71d9-4e06-b4a8-9c0e3d6f5172  /boot            ext4   defaults,nodev                           0 2
UUID=cb3e9f05-47a1-4d68-a2b9-e1f50c8d7364  none             swap   sw,pri=10                                0 0
LABEL=vault                                /srv/vault       btrfs  compress=zstd:3,noatime,nofail           0 0
/srv/vault/export                          /srv/export      none   bind,nofail                              0 0
quayside.saltmarsh.example:/srv/tides      /net/tides       nfs    ro,_netdev,nofail,x-systemd.automount    0 0
tmpfs                                      /var/tmp/ingest  tmpfs  size=4G,mode=0750,nosuid,nodev           0 0
'''
    return record('archive', table, devs,
                  [mount('/dev/sda2', '/', 'btrfs', 'rw,relatime,ssd,space_cache=v2,subvol=/@'), mount('/dev/sda2', '/home', 'btrfs', 'rw,relatime,subvol=/@home'),
                   mount('/dev/sda2', '/.snapshots', 'btrfs', 'rw,noatime,subvol=/@snapshots'),
                   mount('/dev/sda1', '/boot', 'ext4', 'rw,nodev,relatime'), mount('/dev/sdb', '/srv/vault', 'btrfs', 'rw,noatime,compress=zstd:3'),
                   dict(mount('/dev/sdb', '/srv/export', 'btrfs', 'rw,noatime,compress=zstd:3'), root='/export'),
                   mount('tmpfs', '/var/tmp/ingest', 'tmpfs', 'rw,nosuid,nodev,relatime,size=4194304k,mode=750')],
                  [active('/dev/sda3', 16 * GIB - 4096, 0, 10)],
                  [folder('/home'), folder('/.snapshots'), folder('/boot'), folder('/srv/vault'), folder('/srv/export'), folder('/srv/vault/export', 3, '/srv/vault'),
                   dict(path='/net/tides', kind='directory'), folder('/var/tmp/ingest')], 64 * GIB,
                  kernel='6.12.41+deb13-amd64', os=('Debian GNU/Linux 13 (trixie)', 'debian', '13'), init='257', root=root, programs=['nfs', 'nfs4'])


def kelp():
    """A small board with a stick named by the kernel."""
    mmc = disk('/dev/mmcblk0', 32 * 10**9, 179, 0)
    sda = disk('/dev/sda', 16 * 10**9, 8, 0, model='Kelpie Stick', removable=True)
    devs = [mmc,
            part(mmc, 1, 4 << 20, 512 << 20, '6c586e13-01', fs('vfat', '5DE4-665C', 'bootfs')),
            part(mmc, 2, 516 << 20, 31 * 10**9, '6c586e13-02', fs('ext4', '1d7c60b4-f2e9-4835-9a6d-b0c8e5f3a172', 'rootfs')),
            sda,
            part(sda, 1, 1 << 20, 16 * 10**9 - (2 << 20), 'c3072e18-01', fs('vfat', '2B0F-91AC', 'FIELD'))]
    table = '''proc            /proc           proc    defaults          0       0
PARTUUID=6c586e13-01  /boot/firmware  vfat    defaults          0       2
PARTUUID=6c586e13-02  /               ext4    defaults,noatime  0       1
# stick with the field readings
/dev/sda1       /media/field    vfat    uid=1000,gid=1000,umask=022  0  0
'''
    return record('kelp', table, devs,
                  [mount('/dev/mmcblk0p2', '/', 'ext4', 'rw,noatime'), mount('/dev/mmcblk0p1', '/boot/firmware', 'vfat', 'rw,relatime'), mount('/dev/sda1', '/media/field', 'vfat', 'rw,relatime,uid=1000')],
                  [], [folder('/proc', 0, '/proc'), folder('/boot/firmware'), folder('/media/field')], 1 * GIB, arch='aarch64', kernel='6.1.0-rpi8-rpi-v8', root='PARTUUID=6c586e13-02')


def breakwater():
    """The most layered host: two disks in a mirror, a container on it, a volume group in that, and a spare disk."""
    md = 'c3d21f68-9a07-4e51-b8f4-2d60e7a9315b'
    def member(path, minor, serial):
        d = disk(path, 2000 * 10**9, 8, minor, dict(content('raid-member', 'mdraid', md, 'breakwater:stone'), level='raid1'), 'Halyard HD2000', rotational=True)
        d.update(serial=serial, transport='ata', children=['/dev/md127'], links=[f'/dev/disk/by-id/ata-Halyard_HD2000_{serial}'])
        return d
    boot = disk('/dev/nvme0n1', 256 * GIB, 259, 0, model='Halyard NV256'); boot.update(serial='NV-0311', transport='nvme')
    devs = [boot, part(boot, 1, 1 << 20, GIB, '81e0c5f7-2b9d-4a36-8f14-d0c7b3a95e01', fs('vfat', '7E21-C0A4', 'EFI', GIB)),
            part(boot, 2, 2 << 30, 254 * GIB, '81e0c5f7-2b9d-4a36-8f14-d0c7b3a95e02', fs('ext4', '3f7b92d0-a41c-48e6-9c05-17e8d2b6f430', 'hull', 254 * GIB)),
            member('/dev/sda', 0, 'HD-1104'), member('/dev/sdb', 16, 'HD-1105')]
    spare = disk('/dev/sdc', 2000 * 10**9, 8, 32, content('empty', block=None), 'Halyard HD2000', rotational=True)
    spare.update(serial='HD-1106', transport='ata'); devs.append(spare)
    size = 1999 * 10**9
    def made(path, kind, major, minor, size, parents, children, holds, links):
        return dict(path=path, kind=kind, major=major, minor=minor, size=size, sector_size=512, read_only=False, removable=False,
                    parents=parents, children=children, links=links, content=holds)
    volumes = [('tides', 'xfs', 900, '5b0a7e36-c1d4-4f92-8e67-a90d3b25f718'), ('waves', 'xfs', 500, 'd94c1f20-6be8-4a75-b3f1-08c7e52a9d46'),
               ('logs', 'ext4', 100, '0e58d3b9-7f2a-4c61-95d0-e4b17a6c8f23'), ('reserve', 'swap', 16, '97a3c0e5-1d8b-4f46-a2e9-6b50f7d418c3')]
    devs.append(made('/dev/md127', 'raid', 9, 127, size, ['/dev/sda', '/dev/sdb'], ['/dev/dm-0'],
                     content('encrypted', 'LUKS2', '6ed10b94-f5a2-47c8-8b3d-c29e0d71a654'), ['/dev/disk/by-uuid/6ed10b94-f5a2-47c8-8b3d-c29e0d71a654', '/dev/md/stone']))
    devs.append(made('/dev/dm-0', 'mapper', 253, 0, size, ['/dev/md127'], [f'/dev/dm-{n}' for n in range(1, 5)],
                     content('lvm-pv', 'LVM2 PV', 'Xk2vQp-1aZ0-mN4d-R7tS-Lw9e-Hb3c-Y6uFgJ'), ['/dev/mapper/stone']))
    for n, (name, type, gib, uuid) in enumerate(volumes, 1):
        holds = swap(uuid, None, gib * GIB) if type == 'swap' else fs(type, uuid, name, gib * GIB)
        devs.append(made(f'/dev/dm-{n}', 'mapper', 253, n, gib * GIB, ['/dev/dm-0'], [], holds,
                         [f'/dev/disk/by-uuid/{uuid}', f'/dev/mapper/wall-{name}', f'/dev/wall/{name}']))
    table = '''# /etc/fstab of breakwater, the archive behind the wall
UUID=3f7b92d0-a41c-48e6-9c05-17e8d2b6f430 /              ext4  errors=remount-ro  0 1
UUID=7E21-C0A4                            /boot/efi      vfat  umask=0077         0 1
/dev/mapper/wall-tides                    /srv/tides     xfs   noatime,nofail     0 0
/dev/mapper/wall-waves                    /srv/waves     xfs   noatime,nofail     0 0
/dev/mapper/wall-logs                     /var/log       ext4  noatime            0 2
/dev/mapper/wall-reserve                  none           swap  sw                 0 0
LABEL=copy                                /srv/copy      ext4  noauto,nofail      0 0
'''
    mounts = [mount('/dev/nvme0n1p2', '/', 'ext4', 'rw,relatime'), mount('/dev/nvme0n1p1', '/boot/efi', 'vfat', 'rw,relatime')]
    mounts += [mount(f'/dev/mapper/wall-{name}', at, type, 'rw,noatime') for (name, type, _, _), at in zip(volumes, ['/srv/tides', '/srv/waves', '/var/log'])]
    paths = [folder('/proc', 0, '/proc')] + [folder(p) for p in ('/boot/efi', '/srv/tides', '/srv/waves', '/var/log', '/srv/copy')]
    return record('breakwater', table, devs, mounts, [active('/dev/dm-4', 16 * GIB)], paths, 32 * GIB)


if __name__ == '__main__':
    OUT.mkdir(exist_ok=True)
    hosts = {h['host']['name']: h for h in (m() for m in (quayside, sounding, mooring, bellbuoy, archive, kelp))}
    last_boots(hosts)
    for host in hosts.values():
        (OUT / f"{host['host']['name']}.json").write_text(json.dumps(host, indent=1, ensure_ascii=False) + '\n')
    # Beside the others: the demo shows six.
    (OUT / 'stack').mkdir(exist_ok=True)
    (OUT / 'stack' / 'breakwater.json').write_text(json.dumps(breakwater(), indent=1, ensure_ascii=False) + '\n')
