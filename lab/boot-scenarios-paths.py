"""Boots about what a path means at that moment: images, swap files, binds, overlays and targets on other entries' mounts;
what hides the system; root's remount; services that entries ask for. The disk "o" is made by mkdisk.sh."""
U = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a'
ROOT = f'UUID={U}0001'
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
HOLD = 'LABEL=hold\\040two /srv/hold ext4'
SCENARIOS = []


def s(id, fstab, disks='bcdo', **kw):
    SCENARIOS.append(dict(id='path-' + id, fstab=fstab, disks=disks, **kw))


def root(id, options, **kw):
    s('root-' + id, f'{ROOT} / ext4 {options} 0 1\n', root_line=False, **kw)


def service(kind, early=True, kind2='oneshot'):
    default = 'DefaultDependencies=no\n' if early else ''
    return f'[Unit]\n{default}[Service]\nType={kind2}\nRemainAfterExit=yes\nExecStart=/bin/{kind}\n'


# --- images
s('loop-nofail-absent', '/srv/full/none.img /srv/rev ext4 loop,nofail 0 0\n')
s('loop-plain', f'{HOLD} defaults 0 2\n/srv/hold/disk.img /srv/rev ext4 defaults 0 0\n')
s('loop-first', f'/srv/hold/disk.img /srv/rev ext4 loop 0 0\n{HOLD} defaults 0 2\n')
s('loop-wrong-type', f'{HOLD} defaults 0 2\n/srv/hold/disk.img /srv/rev xfs loop 0 0\n')
s('loop-auto', f'{HOLD} defaults 0 2\n/srv/hold/disk.img /srv/rev auto loop 0 0\n')
s('loop-offset', f'{HOLD} defaults 0 2\n/srv/hold/disk.img /srv/rev ext4 loop,offset=4096 0 0\n')
s('loop-on-ro', f'{HOLD} ro 0 2\n/srv/hold/disk.img /srv/rev ext4 loop 0 0\n')
s('loop-pass', f'{HOLD} defaults 0 2\n/srv/hold/disk.img /srv/rev ext4 loop 0 2\n')
s('loop-is-text', '/srv/afile /srv/rev ext4 loop 0 0\n')
s('loop-is-dir', '/srv/full /srv/rev ext4 loop 0 0\n')
s('loop-nofail-parent-lost', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n/srv/lost/disk.img /srv/rev ext4 loop,nofail 0 0\n')
s('loop-noauto-parent', f'{HOLD} noauto 0 2\n/srv/hold/disk.img /srv/rev ext4 loop 0 0\n')
# --- swap files
s('swap-parent-tmpfs', 'tmpfs /var/swap tmpfs size=8m 0 0\n/var/swap/good none swap sw,nofail 0 0\n')
s('swap-below-disk', 'LABEL=grain /var/swap ext4 defaults 0 2\n/var/swap/good none swap sw 0 0\n')
s('swap-parent-noauto', f'{HOLD} noauto 0 0\n/srv/hold/swapfile none swap sw 0 0\n')
s('swap-parent-ro', f'{HOLD} ro 0 0\n/srv/hold/swapfile none swap sw 0 0\n')
# --- binds
s('bind-from-tmpfs', 'tmpfs /srv/full tmpfs size=1m 0 0\n/srv/full/a /srv/rev none bind 0 0\n')
s('bind-absent-on-ro', f'{HOLD} ro 0 0\n/srv/hold/none /srv/rev none bind 0 0\n')
s('bind-file-on-file', f'{HOLD} defaults 0 0\n/srv/hold/afile /srv/afile none bind 0 0\n')
s('bind-hidden', f'LABEL=grain /srv/full ext4 defaults 0 2\n/srv/full/inner /srv/rev none bind 0 0\n')
s('bind-onto-itself', '/srv/full /srv/full none bind 0 0\n')
s('bind-parent-lost', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n/srv/lost/a /srv/rev none bind,nofail 0 0\n')
s('bind-circle', '/srv/rev /srv/twin none bind 0 0\n/srv/twin /srv/rev none bind 0 0\n')
# --- overlays
s('overlay-good', 'overlay /srv/lost overlay lowerdir=/srv/full,upperdir=/srv/rev,workdir=/srv/twin 0 0\n')
s('overlay-lower-absent', 'overlay /srv/lost overlay lowerdir=/srv/none,upperdir=/srv/rev,workdir=/srv/twin 0 0\n')
s('overlay-work-elsewhere', 'tmpfs /srv/twin tmpfs size=1m 0 0\noverlay /srv/lost overlay lowerdir=/srv/full,upperdir=/srv/rev,workdir=/srv/twin 0 0\n')
s('overlay-single', 'overlay /srv/lost overlay lowerdir=/srv/full 0 0\n')
s('overlay-two-lower', 'overlay /srv/lost overlay lowerdir=/srv/full:/srv/rev 0 0\n')
s('overlay-on-hold', f'{HOLD} defaults 0 2\noverlay /srv/lost overlay lowerdir=/srv/full,upperdir=/srv/hold/up,workdir=/srv/hold/work 0 0\n')
s('overlay-on-hold-needs', f'{HOLD} defaults 0 2\noverlay /srv/lost overlay lowerdir=/srv/full,upperdir=/srv/hold/up,workdir=/srv/hold/work,x-systemd.requires-mounts-for=/srv/hold 0 0\n')
s('overlay-nofail-absent', 'overlay /srv/lost overlay nofail,lowerdir=/srv/none,upperdir=/srv/rev,workdir=/srv/twin 0 0\n')
s('overlay-upper-file', 'overlay /srv/lost overlay lowerdir=/srv/full,upperdir=/srv/afile,workdir=/srv/twin 0 0\n')
# --- targets
s('target-below-tmpfs', 'tmpfs /srv tmpfs size=1m 0 0\nLABEL=silo /srv/afile xfs defaults 0 0\n')
s('target-below-ro', f'{HOLD} ro 0 2\nLABEL=grain /srv/hold/new ext4 defaults 0 2\n')
s('target-is-file-below', f'{HOLD} defaults 0 2\nLABEL=grain /srv/hold/afile ext4 defaults 0 2\n')
# --- what hides the system
s('hide-usr-tmpfs', 'tmpfs /usr tmpfs size=1m 0 0\n', limit=200)
s('hide-usr-empty', 'LABEL=grain /usr ext4 defaults 0 2\n', limit=200)
s('hide-lib-tmpfs', 'tmpfs /lib tmpfs size=1m 0 0\n', limit=200)
s('hide-var-tmpfs', 'tmpfs /var tmpfs size=9m 0 0\n', limit=200)
s('hide-dev-tmpfs', 'tmpfs /dev tmpfs size=1m 0 0\n', limit=200)
s('hide-run-tmpfs', 'tmpfs /run tmpfs size=9m 0 0\n', limit=200)
s('hide-etc-disk', 'LABEL=grain /etc ext4 defaults 0 2\n', limit=200)
s('hide-usr-bin', 'tmpfs /usr/bin tmpfs size=1m 0 0\n', limit=200)
s('hide-home-tmpfs', 'tmpfs /home tmpfs size=1m 0 0\ntmpfs /root tmpfs size=1m 0 0\n')
root('noexec', 'noexec', limit=200)
root('nodev', 'nodev', limit=200)
s('usr-bind-noexec', '/usr /usr none bind,noexec 0 0\n', limit=200)
# --- root's remount
root('data-ordered', 'data=ordered')
root('data-writeback', 'data=writeback')
root('journal-checksum', 'journal_checksum')
root('nodelalloc', 'nodelalloc')
root('delalloc', 'delalloc')
root('acl', 'acl,user_xattr')
root('noload', 'noload')
root('dax', 'dax')
root('sb', 'sb=1')
root('usrjquota', 'usrjquota=aquota.user,jqfmt=vfsv0')
root('subvol', 'subvol=@')
root('lazytime', 'lazytime,discard,commit=30')
s('root-path-lost', '/dev/sdz9 / ext4 defaults 0 1\n', root_line=False)
s('root-label-lost', 'LABEL=nowhere / ext4 defaults 0 1\n', root_line=False)
s('root-partuuid-lost', 'PARTUUID=0badc0de-01 / ext4 defaults 0 0\n', root_line=False)
s('root-overlay', 'overlay / overlay rw 0 0\n', root_line=False)
# --- the reader's edge
s('crlf-four', 'LABEL=grain /srv/grain ext4 defaults\r\n')
s('crlf-three', 'LABEL=grain /srv/grain ext4\r\n')
s('crlf-five', 'LABEL=grain /srv/grain ext4 defaults 0\r\n')
s('crlf-six', 'LABEL=grain /srv/grain ext4 defaults 0 2\r\n')
s('crlf-nofail', 'LABEL=grain /srv/grain ext4 nofail\r\n')
s('crlf-two', 'LABEL=grain /srv/grain\r\n')
s('target-latin1', b'LABEL=grain /srv/gr\xe4in ext4 defaults 0 2\n')
# --- recorded errors, not checked
s('cracked-0', 'LABEL=cracked /srv/lost ext4 defaults 0 0\n', 'bjo')
s('cracked-0-nofail', 'LABEL=cracked /srv/lost ext4 nofail 0 0\n', 'bjo')
# --- services and drop-ins
GRAIN = 'LABEL=grain /srv/grain ext4'
s('requires-good', f'{GRAIN} x-systemd.requires=tide-gate.service 0 2\n', files={'/etc/systemd/system/tide-gate.service': service('true')})
s('requires-fails-nofail', f'{GRAIN} nofail,x-systemd.requires=tide-gate.service 0 2\n', files={'/etc/systemd/system/tide-gate.service': service('false')})
s('requires-late-nofail', f'{GRAIN} nofail,x-systemd.requires=tide-gate.service 0 2\n', files={'/etc/systemd/system/tide-gate.service': service('true', early=False)})
s('after-late', f'{GRAIN} x-systemd.after=tide-gate.service 0 2\n', files={'/etc/systemd/system/tide-gate.service': service('true', early=False)})
s('after-missing', f'{GRAIN} x-systemd.after=tide-gate.service 0 2\n')
s('before-missing', f'{GRAIN} x-systemd.before=tide-gate.service 0 2\n')
s('requires-missing-beside-lost', f'{GRAIN} x-systemd.requires=tide-gate.service 0 2\n{LOST} /srv/lost ext4 x-systemd.device-timeout=6 0 0\n')
s('requires-missing-beside-swap', f'{GRAIN} x-systemd.requires=tide-gate.service 0 2\nUUID={U}c00c none swap sw 0 0\n/var/swap/good none swap sw 0 0\n')
s('requires-missing-automount', f'{GRAIN} x-systemd.automount,x-systemd.requires=tide-gate.service 0 2\n')
s('target-wants', f'{LOST} /srv/lost ext4 noauto,x-systemd.device-timeout=6 0 0\n', files={'/etc/systemd/system/local-fs.target.d/need.conf': '[Unit]\nWants=srv-lost.mount\nAfter=srv-lost.mount\n'})
s('target-requires-noauto', f'{LOST} /srv/lost ext4 noauto,x-systemd.device-timeout=6 0 0\n', files={'/etc/systemd/system/local-fs.target.d/need.conf': '[Unit]\nRequires=srv-lost.mount\nAfter=srv-lost.mount\n'})
s('multi-user-requires', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n', files={'/etc/systemd/system/multi-user.target.d/need.conf': '[Unit]\nRequires=srv-lost.mount\nAfter=srv-lost.mount\n'})
s('mount-dropin-timeout', f'{LOST} /srv/lost ext4 defaults 0 0\n', files={'/etc/systemd/system/dev-disk-by\\x2duuid-0badc0de\\x2d6a35\\x2d4b1c\\x2d9a55\\x2d0f6f1f1a0bad.device.d/t.conf': '[Unit]\nJobTimeoutSec=6\n'})
# --- subvolumes
PRESS = 'LABEL=press\\040room /srv/press btrfs'
s('subvolid-lost', f'{PRESS} subvolid=999 0 0\n', 'bcde')
s('subvol-and-id', f'{PRESS} subvol=/,subvolid=5 0 0\n', 'bcde')
s('subvol-against-id', f'{PRESS} subvol=/,subvolid=256 0 0\n', 'bcde')
