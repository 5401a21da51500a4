"""Boots of mixed kinds a third time, written down before the model was asked about any: drop-ins of root, of checks, of swap and
of services that come first, automounts of one's own, what is masked, ties to the network, sources behind each other, options of
several types. For --release bookworm (252) and sid (262)."""
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
LOST_NAME = 'dev-disk-by\\x2duuid-0badc0de\\x2d6a35\\x2d4b1c\\x2d9a55\\x2d0f6f1f1a0bad'
GRAIN = 'LABEL=grain /srv/grain ext4'
SILO = 'LABEL=silo /srv/silo xfs defaults 0 0\n'
E = '/etc/systemd/system'
SHORT = 'x-systemd.device-timeout=12'
SCENARIOS = []


def s(id, fstab, disks='bcd', **kw):
    SCENARIOS.append(dict(id='third-' + id, fstab=fstab, disks=disks, **kw))


def dropin(unit, text):
    return {f'{E}/{unit}.d/own.conf': text}


def service(text, early=True, run='/bin/true'):
    first = 'DefaultDependencies=no\n' if early else ''
    return f'[Unit]\n{first}{text}[Service]\nType=oneshot\nRemainAfterExit=yes\nExecStart={run}\n'


# --- root, checks, remount
s('root-dropin-options', SILO, files=dropin('-.mount', '[Mount]\nOptions=noatime\n'))
s('root-dropin-condition', SILO, files=dropin('-.mount', '[Unit]\nConditionPathExists=/nowhere\n'))
s('remount-dropin-false', SILO, files=dropin('systemd-remount-fs.service', '[Service]\nExecStart=\nExecStart=/bin/false\n'))
s('remount-condition', SILO, files=dropin('systemd-remount-fs.service', '[Unit]\nConditionPathExists=/nowhere\n'))
s('check-dropin-true', f'LABEL=cracked /srv/grain ext4 defaults 0 2\n{SILO}', 'bcdefghij', files=dropin('systemd-fsck@', '[Service]\nExecStart=\nExecStart=/bin/true\n'))
s('check-service-dropin-true', f'LABEL=cracked /srv/grain ext4 defaults 0 2\n{SILO}', 'bcdefghij', files=dropin('systemd-fsck@.service', '[Service]\nExecStart=\nExecStart=/bin/true\n'))
s('check-condition', f'LABEL=cracked /srv/grain ext4 defaults 0 2\n{SILO}', 'bcdefghij', files=dropin('systemd-fsck@.service', '[Unit]\nConditionPathExists=/nowhere\n'))
s('check-own-instance', f'LABEL=cracked /srv/grain ext4 defaults 0 2\n{SILO}', 'bcdefghij', files={f'{E}/systemd-fsck@dev-disk-by\\x2dlabel-cracked.service': service('', run='/bin/true')})
s('check-own-instance-false', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/systemd-fsck@dev-disk-by\\x2dlabel-grain.service': service('', run='/bin/false')})
s('check-instance-masked', f'{GRAIN} nofail 0 2\n{SILO}', files={f'{E}/systemd-fsck@dev-disk-by\\x2dlabel-grain.service': ''})
# --- swap
s('swap-job-limit', f'{LOST} none swap sw 0 0\n{SILO}', files=dropin(LOST_NAME + '.swap', '[Unit]\nJobTimeoutSec=14\n'))
s('swap-dropin-what', f'{LOST} none swap {SHORT} 0 0\n{SILO}', files=dropin(LOST_NAME + '.swap', '[Swap]\nWhat=/dev/disk/by-label/reserve\n'))
s('swap-dropin-priority', f'LABEL=reserve none swap pri=3 0 0\n{SILO}', files=dropin('dev-disk-by\\x2dlabel-reserve.swap', '[Swap]\nPriority=9\n'))
s('swap-requires-mount', f'LABEL=reserve none swap x-systemd.requires=srv-lost.mount 0 0\n{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n{SILO}')
s('swap-before-service', f'LABEL=reserve none swap nofail 0 0\n{SILO}', files={f'{E}/own.service': service('Before=swap.target\nConflicts=dev-disk-by\\x2dlabel-reserve.swap\n'), **dropin('sysinit.target', '[Unit]\nWants=own.service\n')})
s('swap-file-own-unit', SILO, files={f'{E}/var-swap-good.swap': '[Swap]\nWhat=/var/swap/good\n', **dropin('swap.target', '[Unit]\nWants=var-swap-good.swap\n')})
# --- automounts
s('automount-own-conflict', f'{GRAIN} x-systemd.automount 0 2\n{SILO}', files={f'{E}/srv-grain.automount': '[Automount]\nWhere=/srv/grain\nTimeoutIdleSec=3\n'})
s('automount-masked', f'{GRAIN} x-systemd.automount 0 2\n{SILO}', files={f'{E}/srv-grain.automount': ''})
s('automount-lost-service', f'{LOST} /srv/lost ext4 x-systemd.automount,nofail,{SHORT} 0 0\n{SILO}', files={f'{E}/own.service': service('', early=False, run='/bin/ls /srv/lost'), **dropin('multi-user.target', '[Unit]\nWants=own.service\n')})
s('automount-lost-needed', f'{LOST} /srv/lost ext4 x-systemd.automount,nofail,{SHORT} 0 0\n{SILO}', files={f'{E}/own.service': service('RequiresMountsFor=/srv/lost\n', early=False), **dropin('multi-user.target', '[Unit]\nWants=own.service\nAfter=own.service\n')})
s('automount-condition', f'{GRAIN} x-systemd.automount 0 2\n{SILO}', files=dropin('srv-grain.automount', '[Unit]\nConditionPathExists=/nowhere\n'))
s('automount-below-lost', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\ntmpfs /srv/lost/in tmpfs x-systemd.automount 0 0\n{SILO}')
# --- masks
s('mask-tmp-entry', f'tmpfs /tmp tmpfs size=5m 0 0\n{SILO}', files={f'{E}/tmp.mount': ''})
s('mask-remote-fs', f'{LOST} /srv/lost ext4 _netdev,{SHORT} 0 0\n{SILO}', files={f'{E}/remote-fs.target': ''})
s('mask-fs-pre', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/local-fs-pre.target': ''})
s('mask-device', f'{GRAIN} nofail 0 2\n{SILO}', files={f'{E}/dev-disk-by\\x2dlabel-grain.device': ''})
s('mask-udev-settle', f'{GRAIN} x-systemd.requires=systemd-udev-settle.service 0 2\n{SILO}', files={f'{E}/systemd-udev-settle.service': ''})
s('mask-word-target', f'{LOST} /srv/lost ext4 {SHORT} 0 2\n{SILO}', cmdline='systemd.mask=local-fs.target')
# --- services that come first
s('pre-fails-required', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/own.service': service('Before=local-fs-pre.target\nWants=local-fs-pre.target\n', run='/bin/false'), **dropin('local-fs-pre.target', '[Unit]\nRequires=own.service\n')})
s('pre-slow', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/own.service': service('Before=local-fs-pre.target\nWants=local-fs-pre.target\n', run='/bin/sleep 8'), **dropin('sysinit.target', '[Unit]\nWants=own.service\n')})
s('makes-directory', f'LABEL=grain /srv/not/there ext4 x-systemd.requires=own.service 0 2\n{SILO}', files={f'{E}/own.service': service('', run='/bin/mkdir -p /srv/not/there')})
s('hangs-with-limit', f'{GRAIN} x-systemd.requires=own.service,nofail 0 2\n{SILO}', files={f'{E}/own.service': service('', run='/bin/sleep 600').replace('Type=oneshot', 'Type=oneshot\nTimeoutStartSec=9')})
s('wants-late', f'{GRAIN} x-systemd.wants=own.service 0 2\n{SILO}', files={f'{E}/own.service': service('', early=False)})
s('after-late-nofail', f'{GRAIN} nofail,x-systemd.after=own.service 0 2\n{SILO}', files={f'{E}/own.service': service('', early=False), **dropin('multi-user.target', '[Unit]\nWants=own.service\n')})
s('bound-to-mount', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n{SILO}', files={f'{E}/own.service': service('BindsTo=srv-lost.mount\nAfter=srv-lost.mount\n', early=False), **dropin('multi-user.target', '[Unit]\nRequires=own.service\nAfter=own.service\n')})
s('part-of-mount', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/own.service': service('PartOf=srv-grain.mount\nRequisite=srv-lost.mount\n', early=False), **dropin('multi-user.target', '[Unit]\nWants=own.service\n')})
s('stops-mount', f'{GRAIN} nofail 0 2\n{SILO}', files={f'{E}/own.service': service('After=srv-grain.mount\n', early=False, run='/bin/umount /srv/grain'), **dropin('multi-user.target', '[Unit]\nWants=own.service\nAfter=own.service\n')})
# --- ties to the network
s('local-after-online', f'{GRAIN} x-systemd.after=network-online.target 0 2\n{SILO}')
s('local-requires-online', f'{GRAIN} x-systemd.requires=network-online.target,x-systemd.after=network-online.target 0 2\n{SILO}')
s('local-requires-online-nofail', f'{GRAIN} nofail,x-systemd.requires=network-online.target,x-systemd.after=network-online.target 0 2\n{SILO}')
s('netdev-swap-lost', f'{LOST} none swap _netdev,{SHORT} 0 0\n{SILO}')
s('netdev-bind-of-lost', f'{LOST} /srv/lost ext4 _netdev,{SHORT} 0 0\n/srv/lost/a /srv/twin none bind 0 0\n{SILO}')
s('netdev-bind-both', f'{LOST} /srv/lost ext4 _netdev,{SHORT} 0 0\n/srv/lost/a /srv/twin none bind,_netdev 0 0\n{SILO}')
s('netdev-parent', f'{GRAIN} _netdev 0 0\ntmpfs /srv/grain/in tmpfs size=1m 0 0\n{SILO}')
s('netdev-required-by', f'{LOST} /srv/lost ext4 _netdev,nofail,{SHORT} 0 0\n{SILO}', files=dropin('remote-fs.target', '[Unit]\nRequires=srv-lost.mount\nAfter=srv-lost.mount\n'))
# --- options and types
s('opt-trailing-comma', f'LABEL=grain /srv/grain ext4 defaults,noatime, 0 2\n{SILO}')
s('opt-xfs-errors', 'LABEL=silo /srv/silo xfs errors=remount-ro 0 0\n')
s('opt-xfs-nobarrier', 'LABEL=silo /srv/silo xfs nobarrier,nofail 0 0\n')
s('opt-btrfs-level', 'LABEL=press\\040room /srv/press btrfs compress=zstd:99 0 0\n', 'bcde')
s('opt-btrfs-autodefrag', 'LABEL=press\\040room /srv/press btrfs autodefrag,space_cache=v2,ssd_spread 0 0\n', 'bcde')
s('opt-vfat-many', 'UUID=4B1D-7E20 /boot/efi vfat umask=0077,shortname=winnt,flush,tz=UTC,nofail 0 2\n', 'bcdef')
s('opt-vfat-acl', 'UUID=4B1D-7E20 /boot/efi vfat umask=0077,acl 0 2\n', 'bcdef')
s('opt-ext2-journal', 'LABEL=oldie /srv/grain ext2 data=journal 0 2\n', 'bcdefghijkl')
s('opt-ext4-on-ext2', 'LABEL=oldie /srv/grain ext4 commit=30 0 2\n', 'bcdefghijkl')
s('opt-tmpfs-huge', f'tmpfs /srv/full tmpfs huge=advise,size=3m 0 0\n{SILO}')
s('opt-tmpfs-nr', f'tmpfs /srv/full tmpfs nr_inodes=1k,mode=700,uid=root 0 0\n{SILO}')
s('opt-bind-options', f'/srv/full /srv/twin none bind,noexec,size=3m 0 0\n{SILO}')
s('opt-rbind-private', f'/srv/full /srv/twin none rbind,private 0 0\n{SILO}')
s('opt-user-nofail', f'{GRAIN} user,exec,nofail,X-note=tide 0 2\n{SILO}')
s('opt-overlay-index', f'overlay /srv/twin overlay lowerdir=/srv/full:/srv/rev,index=on,xino=maybe 0 0\n{SILO}')
s('opt-sync-dirsync', f'{GRAIN} sync,dirsync,iversion,strictatime 0 2\n{SILO}')
s('opt-x-systemd-wrong', f'{GRAIN} x-systemd.device-timout=5,x-systemd.automout 0 2\n{SILO}')
