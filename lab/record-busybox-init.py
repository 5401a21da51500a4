#!/usr/bin/env python3
"""Records what busybox as init makes of a table on a board that has nothing else: `mount -o remount,rw /`, `mount -a`, `swapon -a`, all
of busybox, as the usual inittab of such boards has them. A kernel in user mode without an initramfs; then the last line of
the inittab prints what is mounted and used.
Needs user-mode-linux and what own_disk.py needs; root.

Usage: record-busybox-init.py OUT.jsonl [ID,...]"""
import concurrent.futures as cf, json, re, subprocess, sys, tempfile, threading
from own_disk import HULL, LOST, PART, PRESS, RESERVE, SILO, USR, disk, put, start
OUT = sys.argv[1]
ONLY = sys.argv[2].split(',') if len(sys.argv) > 2 else None
CASES = []
ROOT = '/dev/root / auto rw 0 1\n'
G, S, W = f'UUID={USR} /srv/grain ext4', f'UUID={SILO} /srv/silo xfs', f'UUID={RESERVE} none swap'
def c(id, table, root=ROOT, **kw): CASES.append(dict(id=id, table=root + table, **kw))
c('sound', f'{G} defaults 0 2\n{S} noatime 0 0\n{W} sw 0 0\ntmpfs /srv/press tmpfs size=8M 0 0\nproc /proc proc defaults 0 0\n')
for name, source in dict(uuid=f'UUID={USR}', capitals=f'UUID={USR.upper()}', label='LABEL=usr', path='/dev/ubda2', partuuid=f'PARTUUID={PART}2', partlabel='PARTLABEL=usr', quoted=f'UUID="{USR}"', by_label='/dev/disk/by-label/usr', by_uuid=f'/dev/disk/by-uuid/{USR}', lost=f'UUID={LOST}', lost_label='LABEL=absent', lost_path='/dev/ubda9', bare='/dev/ubda6', swap='/dev/ubda3', word='grain').items():
    c('source-' + name.replace('_', '-'), f'{source} /srv/grain ext4 defaults 0 2\n{S} defaults 0 0\n')
for name, options in dict(nofail='nofail', noauto='noauto', user='user', users='users', owner='owner', group='group', netdev='_netdev', comment='comment=tides', x='x-systemd.device-timeout=9', automount='x-systemd.automount,nofail', xmkdir='X-mount.mkdir', relatime='relatime', typo='noatme', errors='errors=remount-ro', auto='auto', lazytime='lazytime', strictatime='strictatime', ro='ro', noexec='noexec', discard='discard', commit='commit=9', commitx='commit=x', nouser='nouser', silent='silent', dash='-', capitals='NOATIME', data='data=journal', typo_nofail='noatme,nofail', bind='bind', remount='remount', loop='loop', uid='uid=0', context='context=tide', nosymfollow='nosymfollow', iversion='iversion', acl='acl', usrquota='usrquota', sync='sync,dirsync', empty='noatime,,nodev', defaults_x='defaults,x-tide').items():
    c('opt-' + name.replace('_', '-'), f'{G} {options} 0 2\n{S} defaults 0 0\n')
for t in ('auto', 'xfs', 'ext3', 'ext2', 'ext5', 'xfs,ext4', 'vfat', 'swap', 'none', 'EXT4', 'noext4'): c('type-' + t, f'UUID={USR} /srv/grain {t} defaults 0 2\n{S} defaults 0 0\n')
c('btrfs-sub', f'UUID={PRESS} /srv/press btrfs subvol=@ 0 0\n'); c('btrfs-sub-lost', f'UUID={PRESS} /srv/press btrfs subvol=absent 0 0\n'); c('btrfs-two', f'UUID={PRESS} /srv/press btrfs subvol=@ 0 0\nUUID={PRESS} /srv/twin btrfs subvolid=5 0 0\n')
c('lost-pass', f'UUID={LOST} /srv/twin ext4 defaults 0 2\n{G} defaults 0 0\n'); c('lost-nofail', f'UUID={LOST} /srv/twin ext4 nofail 0 2\n{G} defaults 0 2\n'); c('lost-noauto', f'UUID={LOST} /srv/twin ext4 noauto 0 2\n'); c('lost-netdev', f'UUID={LOST} /srv/twin ext4 _netdev 0 0\n{G} defaults 0 2\n')
c('target-missing', f'UUID={USR} /srv/absent ext4 defaults 0 2\n{S} defaults 0 0\n'); c('target-file', f'UUID={USR} /srv/full/note ext4 defaults 0 2\n{S} defaults 0 0\n'); c('target-slash', f'UUID={USR} /srv/grain/ ext4 defaults 0 2\n'); c('target-twice', f'UUID={USR} /srv/grain ext4 defaults 0 2\n{S.replace("silo", "grain")} defaults 0 0\n'); c('target-relative', f'UUID={USR} srv/grain ext4 defaults 0 2\n')
c('order-child-first', f'UUID={SILO} /srv/grain/inner xfs defaults 0 0\n{G} defaults 0 2\n'); c('order-child-second', f'UUID={USR} /srv ext4 defaults 0 2\nUUID={SILO} /srv/silo xfs defaults 0 0\n')
c('bind', '/srv/full /srv/twin none bind 0 0\n'); c('bind-gone', '/srv/gone /srv/press none bind 0 0\n/srv/full /srv/twin none bind 0 0\n'); c('rbind', '/srv/full /srv/twin none rbind 0 0\n'); c('bind-ro', '/srv/full /srv/twin none bind,ro 0 0\n'); c('bind-file', '/srv/full/note /srv/twin none bind 0 0\n'); c('bind-auto', '/srv/full /srv/twin auto bind 0 0\n'); c('bind-x', '/srv/full /srv/twin none bind,x-tide 0 0\n')
c('swap', f'{W} sw 0 0\n'); c('swap-defaults', f'{W} defaults 0 0\n'); c('swap-label', 'LABEL=reserve none swap sw 0 0\n'); c('swap-path', '/dev/ubda3 none swap sw 0 0\n'); c('swap-partuuid', f'PARTUUID={PART}3 none swap sw 0 0\n'); c('swap-by-uuid', f'/dev/disk/by-uuid/{RESERVE} none swap sw 0 0\n'); c('swap-lost', f'UUID={LOST} none swap sw 0 0\n{W} sw 0 0\n'); c('swap-noauto', f'{W} noauto 0 0\n'); c('swap-nofail', f'UUID={LOST} none swap nofail 0 0\n')
for o in ('pri=5', 'pri=40000', 'pri=-1', 'pri=x', 'pri=', 'pri', 'discard', 'discard=once', 'discard=pages', 'discard=x', 'nofail', 'noatme', 'x-systemd.device-timeout=9', 'sw,pri=9', 'defaults,pri=9', 'rw,noatime', '_netdev'): c('swap-opt-' + o, f'{W} {o} 0 0\n')
c('swap-file', '/var/swap/good none swap sw 0 0\n'); c('swap-file-nosig', '/var/swap/nosig none swap sw 0 0\n/var/swap/good none swap sw 0 0\n'); c('swap-file-gone', '/var/swap/gone none swap sw 0 0\n'); c('swap-on-ext4', f'UUID={USR} none swap sw 0 0\n{W} sw 0 0\n'); c('swap-target-swap', f'UUID={RESERVE} swap swap sw 0 0\n'); c('swap-target-path', f'UUID={RESERVE} /srv/grain swap sw 0 0\n'); c('swap-capitals', f'UUID={RESERVE} none SWAP sw 0 0\n'); c('swap-on-lost', f'UUID={LOST} /var ext4 nofail 0 0\n/var/swap/good none swap sw 0 0\n'); c('swap-hidden', f'UUID={USR} /var ext4 defaults 0 0\n/var/swap/good none swap sw 0 0\n')
c('two-fields', f'UUID={USR} /srv/grain\n{S} defaults 0 0\n'); c('three-fields', f'UUID={USR} /srv/grain ext4\n{S} defaults 0 0\n'); c('four-fields', f'{G} defaults\n{S} defaults 0 0\n'); c('seven-fields', f'{G} defaults 0 2 more\n{S} defaults 0 0\n'); c('tail', f'{G} defaults 0 2 # tides\n{S} defaults 0 0\n'); c('letters', f'{G} defaults zero two\n{S} defaults 0 0\n'); c('crlf', f'{G} defaults 0 2\r\n{S} defaults 0 0\r\n'); c('crlf-four', f'{G} defaults\r\n{S} defaults 0 0\n'); c('no-newline', f'{G} defaults 0 2'); c('comment', f'#{G} defaults 0 2\n{S} defaults 0 0\n'); c('tabs', f'{G} defaults 0 2\n'.replace(' ', '\t')); c('one-field', f'UUID={USR}\n{S} defaults 0 0\n')
c('escaped-target', f'UUID={USR} /srv/gr\\141in ext4 defaults 0 2\n{S} defaults 0 0\n'); c('escaped-source', '/dev/\\165bda2 /srv/grain ext4 defaults 0 2\n')
c('tmpfs-size', 'tmpfs /srv/press tmpfs size=4m,mode=1777 0 0\n'); c('tmpfs-typo', 'tmpfs /srv/press tmpfs sizee=4m 0 0\n'); c('tmpfs-nofail', 'tmpfs /tmp tmpfs nofail,noatime 0 0\n'); c('nfs', 'tidehost.example:/tides /srv/twin nfs defaults 0 0\n' + f'{G} defaults 0 0\n'); c('nfs-nofail', 'tidehost.example:/tides /srv/twin nfs nofail,_netdev 0 0\n' + f'{G} defaults 0 0\n'); c('nfs-address', '192.0.2.9:/tides /srv/twin nfs nolock 0 0\n' + f'{G} defaults 0 0\n'); c('nfs-noauto', 'tidehost.example:/tides /srv/twin nfs noauto 0 0\n' + f'{G} defaults 0 0\n'); c('cifs', '//tidehost.example/tides /srv/twin cifs guest 0 0\n' + f'{G} defaults 0 0\n'); c('nfs-last', f'{G} defaults 0 0\ntidehost.example:/tides /srv/twin nfs defaults 0 0\n{W} sw 0 0\n'); c('opt-mixed', f'{G} NoFail,RO 0 0\n{S} LogBufs=4 0 0\n'); c('helper', 'tides /srv/twin fuse.sshfs defaults 0 0\n' + f'{G} defaults 0 0\n'); c('swap-quoted', f'UUID="{RESERVE}" none swap sw 0 0\n'); c('blank-target', f'UUID={USR} /srv/gr\\040in ext4 defaults 0 0\n'); c('target-none', f'UUID={USR} none ext4 defaults 0 0\n{S} defaults 0 0\n'); c('target-twice-last', f'{S.replace("silo", "grain")} defaults 0 0\n{G} defaults 0 0\n{S} defaults 0 0\n'); c('same-twice', f'{G} defaults 0 0\nUUID={USR} /srv/twin ext4 ro 0 0\n'); c('proc', f'proc /proc proc defaults 0 0\nsysfs /sys sysfs defaults 0 0\ndevpts /dev/pts devpts mode=620 0 0\n{G} defaults 0 0\n'); c('loop', '/srv/gone.img /srv/twin ext4 loop 0 0\n' + f'{G} defaults 0 0\n')
for name, root in dict(typo=f'UUID={HULL} / ext4 noatme 0 1\n', wrong=f'UUID={USR} / ext4 defaults 0 1\n', lost=f'UUID={LOST} / ext4 defaults 0 1\n', none='', ro=f'UUID={HULL} / ext4 ro 0 1\n', noatime=f'UUID={HULL} / ext4 noatime 0 1\n', uuid=f'UUID={HULL} / ext4 defaults 0 1\n', path='/dev/ubda1 / ext4 defaults 0 1\n', x=f'UUID={HULL} / ext4 x-systemd.growfs 0 1\n', type=f'UUID={HULL} / xfs defaults 0 1\n', noauto=f'UUID={HULL} / ext4 noauto 0 1\n', errors=f'UUID={HULL} / ext4 errors=remount-ro 0 1\n', nofail=f'UUID={HULL} / ext4 nofail 0 1\n', auto='/dev/root / auto defaults 0 1\n', label='LABEL=hull / ext4 defaults 0 1\n').items():
    c('root-' + name, f'{G} defaults 0 2\n', root)
REPORT = '#!/bin/sh\necho REPORT-BEGIN\nwhile read a b c d e; do echo mounted $a $b $c $d; done < /proc/self/mounts\nwhile read a b c d e; do echo swapped $a $b $c $e; done < /proc/swaps\necho REPORT-END\npoweroff -f\n'
INITTAB = '::sysinit:/bin/mount -t proc proc /proc\n::sysinit:/bin/mount -o remount,rw /\n::sysinit:/bin/mount -a\n::sysinit:/sbin/swapon -a\n::once:/etc/report\n'
FILES = {'sbin/init': '->../bin/busybox', 'sbin/swapon': '->../bin/busybox', 'etc/inittab': INITTAB, 'etc/report': REPORT}

def boot(case, base, at):
    with tempfile.TemporaryDirectory(dir='/dev/shm') as folder:
        path = f'{folder}/disk'
        subprocess.run(['cp', '--sparse=always', base, path], check=True)
        put(path, at, {'/etc/fstab': case['table']})
        text, waits, wall = start([f'ubd0={path}', 'root=/dev/ubda1', 'ro'], 60)
    report = re.search(r'REPORT-BEGIN\n(.*?)REPORT-END', text, re.S)
    found = re.findall(r'^mounted (\S+ \S+ \S+ \S+)', report.group(1), re.M) if report else []
    mounted = {m.split(' ')[1]: m.split(' ')[3] for m in found if m.split(' ')[1] not in ('/dev', '/proc')}
    swapped = [s for s in re.findall(r'^swapped (/\S+) \S+ \S+ (.*)', report.group(1), re.M)] if report else []
    said = [l for l in re.findall(r'^(?:mount|swapon): (.*)', text, re.M)]
    return dict(case, login=bool(report), mounted=mounted, swapped={path: rest.split()[-1] for path, rest in swapped}, said=said[:4], wall=wall)

with tempfile.TemporaryDirectory(dir='/dev/shm') as folder:
    path, at = disk(folder, FILES)
    lock = threading.Lock()
    def one(case):
        got = boot(case, path, at)
        with lock, open(OUT, 'a') as out: print(json.dumps(got), file=out)
        print(got['id'], '→', got['login'], got['mounted'], got['swapped'], got['said'], got['wall'], flush=True)
    with cf.ThreadPoolExecutor(4) as pool: list(pool.map(one, [c for c in CASES if not ONLY or c['id'] in ONLY]))
