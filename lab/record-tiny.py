#!/usr/bin/env python3
"""Records what tiny-initramfs does with root and /usr: a kernel in user mode is started with Debian's own program as initramfs, one
command line and one table after the other, on a disk of its own with a partition table. The first program on root prints what is
mounted; without it the machine ends in a panic, or waits until the limit.
Needs user-mode-linux, e2fsprogs, xfsprogs, btrfs-progs, fdisk, busybox-static, cpio, root, and the program of tiny-initramfs-core.

Usage: record-tiny.py INIT-STATIC OUT.jsonl [ID,...]"""
import concurrent.futures as cf, json, os, re, shutil, subprocess, sys, tempfile, threading
from own_disk import HULL, LOST, PART, PRESS, RESERVE, SILO, USR, disk, put, start
INIT, OUT = sys.argv[1:3]
ONLY = sys.argv[3].split(',') if len(sys.argv) > 3 else None
CASES = []
def c(id, line=f'root=UUID={HULL}', table='', **kw): CASES.append(dict(id=id, cmdline=line, table=table, **kw))
def usr(id, table, line=f'root=UUID={HULL} ro', **kw): c('usr-' + id, line, table, **kw)
for name, how in dict(uuid=f'UUID={HULL}', uuid_capitals=f'UUID={HULL.upper()}', uuid_quoted=f'"UUID={HULL}"', path='/dev/ubda1', number='98:1', hexadecimal='0x6201', bare_hexadecimal='6201', partuuid=f'PARTUUID={PART}1', label='LABEL=hull',
        partlabel='PARTLABEL=hull', by_uuid=f'/dev/disk/by-uuid/{HULL}', mapper='/dev/mapper/tides-root', name='ubda1', xfs=f'UUID={SILO}', xfs_path='/dev/ubda4', btrfs=f'UUID={PRESS}', swap='/dev/ubda3', swap_uuid=f'UUID={RESERVE}', bare='/dev/ubda6', disk='/dev/ubda', empty='', word='hull', short=f'UUID={HULL[:-1]}', uuid_empty='UUID=', lower=f'uuid={HULL}', hexadecimal_lost='0x6209', slash='/dev/ubda1/', twice_slash='//dev/ubda1').items():
    c('root-' + name.replace('_', '-'), f'root={how} ro', **(dict(limit=215) if name in ('by_uuid', 'mapper', 'swap_uuid', 'hexadecimal_lost', 'slash') else {}))
c('root-none', 'ro'); c('root-twice', f'root=/dev/ubda9 root=UUID={HULL}'); c('root-twice-lost', f'root=UUID={HULL} root=LABEL=hull')
for name, how in dict(uuid=f'UUID={LOST}', path='/dev/ubda9', part=f'PARTUUID={PART}9', mapper='/dev/mapper/tides-root').items():
    c('lost-' + name, f'root={how} ro', limit=215); c('lost-wait-' + name, f'root={how} ro rootwait', limit=215)
c('lost-delay', f'root=UUID={LOST} ro rootdelay=10', limit=225); c('delay', f'root=UUID={HULL} ro rootdelay=7'); c('delay-word', f'root=UUID={HULL} ro rootdelay=x'); c('wait-label', 'root=LABEL=hull rootwait')
for t in ('ext4', 'ext3', 'ext2', 'xfs', 'ext5', 'xfs,ext4', 'ext5,ext4', 'auto', ''): c('type-' + t, f'root=UUID={HULL} ro rootfstype={t}')
for f in ('errors=remount-ro', 'noatme', 'data=journal', 'defaults', 'noatime', 'nofail', 'x-systemd.growfs', 'subvol=@', 'ro', 'rw', 'user', 'commit=x', 'relatime', 'lazytime', 'nodev,nosuid', 'noatime,commit=9', 'comment=tides', '_netdev', 'auto', 'noauto', ''): c('flags-' + f, f'root=UUID={HULL} ro rootflags={f}')
c('btrfs-sub', f'root=UUID={PRESS} ro rootflags=subvol=@'); c('btrfs-sub-lost', f'root=UUID={PRESS} ro rootflags=subvol=absent')
c('rw', f'root=UUID={HULL} rw'); c('plain', f'root=UUID={HULL}'); c('rw-ro', f'root=UUID={HULL} rw ro'); c('ro-rw', f'root=UUID={HULL} ro rw')
c('init-absent', f'root=UUID={HULL} ro init=/bin/absent'); c('init-other', f'root=UUID={HULL} ro init=/etc/other'); c('init-relative', f'root=UUID={HULL} ro init=sbin/init'); c('init-empty', f'root=UUID={HULL} ro init=')
c('resume-lost', f'root=UUID={HULL} ro resume=UUID={LOST}'); c('break', f'root=UUID={HULL} ro break'); c('flags-twice', f'root=UUID={HULL} ro rootflags=noatme rootflags=noatime')
U = f'UUID={USR}'
for name, options in dict(plain='defaults', nofail='nofail', noauto='noauto', user='user', users='users', owner='owner', group='group', netdev='_netdev', comment='comment=tides', x='x-systemd.device-timeout=9', xc='X-mount.mkdir', relatime='ro,nodev,relatime', errors='errors=remount-ro',
        typo='noatme', lazytime='lazytime', strictatime='strictatime', mand='mand', silent='silent', loud='loud', uhelper='uhelper=tides', auto='auto', nosymfollow='nosymfollow', acl='acl', atime='ro,noatime,nodiratime,sync', nouser='nouser', rw='rw', ro='ro', noexec='noexec', bind='bind', remount='remount', discard='discard',
        commit='commit=9', commitx='commit=x', defaultsx='defaults,noatime', loop='loop', offset='offset=0', encryption='encryption=no', iversion='iversion', shared='shared', private='private', rprivate='rprivate', empty_words='noatime,,nodev', grpquota='usrquota', fsname='subvol=@', nolazy='nolazytime', nostrict='nostrictatime', norel='norelatime', nodefaults='nodefaults', pass_='noauto,nofail,x-systemd.automount', capitals='NOATIME', data='data=ordered', inode64='inode64', dash='-').items():
    usr('opt-' + name, f'{U} /usr ext4 {options} 0 2\n')
usr('there-rw', f'{U} /usr ext4 defaults 0 2\n', f'root=UUID={HULL} rw'); usr('ro-on-rw', f'{U} /usr ext4 ro 0 2\n', f'root=UUID={HULL} rw'); usr('rw-on-none', f'{U} /usr ext4 rw 0 2\n', f'root=UUID={HULL}')
usr('path', '/dev/ubda2 /usr ext4 defaults 0 2\n'); usr('label', 'LABEL=usr /usr ext4 defaults 0 2\n'); usr('label-nofail', 'LABEL=usr /usr ext4 nofail 0 2\n'); usr('partuuid', f'PARTUUID={PART}2 /usr ext4 defaults 0 2\n'); usr('by-uuid', f'/dev/disk/by-uuid/{USR} /usr ext4 defaults 0 2\n'); usr('by-partlabel', '/dev/disk/by-partlabel/usr /usr ext4 defaults 0 2\n')
usr('mapper', '/dev/mapper/hold-usr /usr ext4 defaults 0 2\n', limit=215); usr('quoted', f'UUID="{USR}" /usr ext4 defaults 0 2\n'); usr('capitals', f'UUID={USR.upper()} /usr ext4 defaults 0 2\n'); usr('number', '0x6202 /usr ext4 defaults 0 2\n')
usr('lost', f'UUID={LOST} /usr ext4 defaults 0 2\n', limit=215); usr('lost-nofail', f'UUID={LOST} /usr ext4 nofail 0 2\n', limit=215); usr('lost-noauto', f'UUID={LOST} /usr ext4 noauto 0 2\n', limit=215); usr('lost-path', '/dev/ubda9 /usr ext4 defaults 0 2\n', limit=215)
usr('lost-wait', f'UUID={LOST} /usr ext4 nofail 0 2\n', f'root=UUID={HULL} ro rootwait', limit=215); usr('lost-delay', f'UUID={LOST} /usr ext4 nofail 0 2\n', f'root=UUID={HULL} ro rootdelay=8', limit=215)
for t in ('auto', 'xfs', 'xfs,ext4', 'ext4,xfs', 'ext3', 'ext5', 'none', 'vfat', 'swap', 'ntfs-3g', 'fuse.sshfs'): usr('type-' + t, f'{U} /usr {t} defaults 0 2\n')
usr('xfs', f'UUID={SILO} /usr xfs defaults 0 2\n'); usr('xfs-typo', f'UUID={SILO} /usr xfs noatme 0 2\n'); usr('btrfs', f'UUID={PRESS} /usr btrfs subvol=@ 0 0\n'); usr('btrfs-lost', f'UUID={PRESS} /usr btrfs subvol=absent 0 0\n'); usr('swap', '/dev/ubda3 /usr ext4 defaults 0 2\n'); usr('bare', '/dev/ubda6 /usr ext4 defaults 0 2\n')
usr('bind', '/srv/usr /usr none bind 0 0\n'); usr('bind-nofail', '/srv/usr /usr none bind,nofail 0 0\n'); usr('tmpfs', 'tmpfs /usr tmpfs size=4m 0 0\n'); usr('nfs-name', 'tidehost.example:/usr /usr nfs ro 0 0\n'); usr('overlay', 'overlay /usr overlay lowerdir=/srv/usr:/srv/under 0 0\n')
usr('second-line', f'LABEL=absent /data ext4 nofail 0 2\n{U} /usr ext4 defaults 0 2\n'); usr('two-lines', f'{U} /usr ext4 defaults 0 2\nUUID={LOST} /usr ext4 defaults 0 2\n'); usr('two-lines-lost', f'LABEL=usr /usr ext4 defaults 0 2\n{U} /usr ext4 defaults 0 2\n')
usr('slash', f'LABEL=usr /usr/ ext4 defaults 0 2\n'); usr('slash-uuid', f'{U} /usr/ ext4 defaults 0 2\n'); usr('double-slash', 'LABEL=usr //usr ext4 defaults 0 2\n'); usr('dot', 'LABEL=usr /usr/. ext4 defaults 0 2\n'); usr('escaped', 'LABEL=usr /u\\163r ext4 defaults 0 2\n'); usr('local', 'LABEL=usr /usr/local ext4 defaults 0 2\n')
usr('two-fields', f'{U} /usr\n'); usr('three-fields', f'{U} /usr ext4\n'); usr('four-fields', f'{U} /usr ext4 defaults\n'); usr('seven-fields', f'{U} /usr ext4 defaults 0 2 more\n'); usr('no-newline', f'{U} /usr ext4 defaults 0 2'); usr('crlf', f'{U} /usr ext4 defaults 0 2\r\n'); usr('crlf-four', f'{U} /usr ext4 defaults\r\n'); usr('comment', f'#{U} /usr ext4 defaults 0 2\nLABEL=x /data ext4 defaults 0 0\n'); usr('comment-blank', f'  # LABEL=usr /usr ext4 defaults 0 2\n')
usr('tabs', f'{U}\t/usr\text4\tnoatime\t0\t2\n'); usr('blanks', f'  {U}   /usr   ext4   noatime   0   2  \n'); usr('tail', f'{U} /usr ext4 defaults 0 2 # the programs\n'); usr('letters', f'{U} /usr ext4 defaults zero two\n'); usr('escaped-source', '/dev/\\165bda2 /usr ext4 defaults 0 2\n'); usr('long-line', f'# {"tide " * 900}\n{U} /usr ext4 noatime 0 2\n'); usr('long-options', f'{U} /usr ext4 {"noatime," * 300}nodev 0 2\n'); usr('many-lines', ''.join(f'UUID={LOST} /data/{n} ext4 nofail 0 0\n' for n in range(400)) + f'{U} /usr ext4 noatime 0 2\n')
usr('no-directory', f'{U} /usr ext4 defaults 0 2\n', without='/usr'); usr('no-table', '', without='/etc/fstab')
usr('root-typo-too', f'UUID={HULL} / ext4 noatme 0 1\n{U} /usr ext4 defaults 0 2\n'); usr('root-entry-options', f'UUID={HULL} / ext4 noatime,nodev 0 1\n')
for word in ('async', 'nosync', 'nodirsync', 'dirsync', 'dev', 'nodev', 'exec', 'suid', 'nosuid', 'atime', 'diratime', 'nomand', 'noiversion', 'nosilent', 'noloud', 'noremount', 'nobind', 'rbind', 'move', 'rmove', 'slave', 'rslave', 'unbindable', 'runbindable', 'nouser', 'nousers', 'noowner', 'nogroup', 'noasync', 'symfollow', 'sw', 'swap', 'recurse', 'managed', 'kudzu',
        'user=tide', 'user=', 'users=1', 'owner=1', 'group=tide', 'nofail=1', 'auto=1', 'noauto=1', '_netdev=1', '_rnetdev', 'comment', 'comment=', 'loop=/dev/loop0', 'loop=', 'offset', 'offset=', 'offset=4096', 'sizelimit', 'sizelimit=9', 'encryption', 'encryption=', 'helper', 'helper=tide', 'uhelper', 'uhelper=', 'context', 'context=tide', 'noatime=1', 'noexec=1', 'ro=1', 'rw=1', 'defaults=1', 'relatime=1', 'sync=1',
        'x-', 'X-', 'x-tide', 'X-tide', 'x-systemd.automount', 'x-initrd.mount', 'X-fstrim.notrim', 'verity.hashdevice=/dev/ubda3', 'noloop', 'nocomment', 'nox-tide', 'ronly', 'mand=1', 'lazytime=1', 'nolazytime=1', 'strictatime=1', 'no_netdev', 'nohelper', 'noro', 'norw', 'rexec', 'rro', 'posixacl', 'i_version', 'inversion', 'loud=1', 'remount=1', 'autodefrag', 'userx', 'usersx', 'ownership', 'groups', 'defaultsx', 'autox', 'nofailx'):
    usr('word-' + word.replace('/', '-'), f'{U} /usr ext4 {word} 0 2\n')
for word in ('noatme', 'nofail', 'user', 'x-tide', 'lazytime', 'nosymfollow', 'X-mount.mkdir', 'sync', 'noiversion', 'silent', 'relatime'): usr('xfs-word-' + word, f'UUID={SILO} /usr xfs {word} 0 2\n')
REPORT = '#!/bin/sh\n[ -e /proc/mounts ] || mount -t proc none /proc\necho REPORT-BEGIN began $0\nwhile read a b c d e; do echo mounted $a $b $c $d; done < /proc/self/mounts\necho REPORT-END\npoweroff -f\n'

def initrd(folder):
    tree = f'{folder}/initramfs'
    for d in ('dev', 'proc', 'target'): os.makedirs(f'{tree}/{d}')
    shutil.copy(INIT, f'{tree}/init'); os.chmod(f'{tree}/init', 0o755)
    subprocess.run(f'find . | cpio -o -H newc --quiet -R 0:0 | gzip > {folder}/initrd', shell=True, cwd=tree, check=True)
    return f'{folder}/initrd'

def boot(case, base, at, image):
    with tempfile.TemporaryDirectory(dir='/dev/shm') as folder:
        path = f'{folder}/disk'
        subprocess.run(['cp', '--sparse=always', base, path], check=True)
        away = [case['without']] if 'without' in case else []
        put(path, at, {} if '/etc/fstab' in away else {'/etc/fstab': case['table']}, [a for a in away if a != '/etc/fstab'])
        text, waits, wall = start([f'initrd={image}', f'ubd0={path}', *case['cmdline'].split(' ')], case.get('limit', 40))
    report = re.search(r'REPORT-BEGIN began (\S+)\n(.*?)REPORT-END', text, re.S)
    mounted = re.findall(r'^mounted (.*)', report.group(2), re.M) if report else []
    ending = 'init' if report else 'waits' if waits else 'panic'
    assert report or waits or 'panic' in text, text
    usr = next((m.split(' ')[3] for m in mounted if m.split(' ')[1] == '/usr'), None)
    said = [s for s in re.findall(r'initramfs: (.*)', text) if not s.startswith('Will cause')][-1:]
    return {k: v for k, v in dict(case, ending=ending, usr=usr, said=said, wall=wall).items() if k != 'limit'}

with tempfile.TemporaryDirectory(dir='/dev/shm') as folder:
    path, at = disk(folder, {'sbin/init': REPORT, 'etc/other': REPORT})
    image = initrd(folder)
    lock = threading.Lock()
    def one(case):
        got = boot(case, path, at, image)
        with lock, open(OUT, 'a') as out: print(json.dumps(got), file=out)
        print(got['id'], '→', got['ending'], got['usr'], got['wall'], got['said'], flush=True)
    # Those that wait do not keep the processor busy.
    with cf.ThreadPoolExecutor(6) as pool: list(pool.map(one, sorted((c for c in CASES if not ONLY or c['id'] in ONLY), key=lambda c: -c.get('limit', 40))))
