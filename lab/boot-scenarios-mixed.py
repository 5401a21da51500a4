"""More boots of mixed kinds, written down before the model was asked about any: drop-ins that hold for many units, own units
beside entries, services that come first, conflict or mount by themselves, targets made stricter or looser, programs that the
guest lacks, names with rare letters. For --release bookworm (252) and sid (262)."""
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
LOST_DEVICE = 'dev-disk-by\\x2duuid-0badc0de\\x2d6a35\\x2d4b1c\\x2d9a55\\x2d0f6f1f1a0bad'
GRAIN = 'LABEL=grain /srv/grain ext4'
SILO = 'LABEL=silo /srv/silo xfs defaults 0 0\n'
E = '/etc/systemd/system'
SHORT = 'x-systemd.device-timeout=12'
SCENARIOS = []


def s(id, fstab, disks='bcd', **kw):
    SCENARIOS.append(dict(id='mixed-' + id, fstab=fstab, disks=disks, **kw))


def dropin(unit, text):
    return {f'{E}/{unit}.d/own.conf': text}


def service(text, early=True, run='/bin/true'):
    first = 'DefaultDependencies=no\n' if early else ''
    return f'[Unit]\n{first}{text}[Service]\nType=oneshot\nRemainAfterExit=yes\nExecStart={run}\n'


# --- drop-ins that hold for many units
s('type-mount-timeout', f'{GRAIN} defaults 0 2\n{SILO}', files=dropin('mount', '[Mount]\nTimeoutSec=40\n'))
s('type-mount-condition', f'{GRAIN} defaults 0 2\n{SILO}', files=dropin('srv-.mount', '[Unit]\nConditionPathExists=/nowhere\n'))
s('prefix-assert', f'{GRAIN} defaults 0 2\ntmpfs /opt/fine tmpfs size=1m 0 0\n', files=dropin('srv-.mount', '[Unit]\nAssertPathExists=/nowhere\n'))
s('prefix-options', f'{GRAIN} defaults 0 2\ntmpfs /opt/fine tmpfs size=1m 0 0\n', files=dropin('srv-.mount', '[Mount]\nOptions=ro,noatime\n'))
s('type-swap-condition', f'LABEL=reserve none swap sw 0 0\n{SILO}', files=dropin('swap', '[Unit]\nConditionPathExists=/nowhere\n'))
s('type-device-limit', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', files=dropin('device', '[Unit]\nJobRunningTimeoutSec=15\n'))
s('prefix-requires-lost', f'{GRAIN} defaults 0 2\n{LOST} /opt/lost ext4 nofail,{SHORT} 0 0\n', files=dropin('srv-.mount', '[Unit]\nRequires=opt-lost.mount\nAfter=opt-lost.mount\n'))
s('dropin-what-found', f'{LOST} /srv/grain ext4 {SHORT} 0 0\n{SILO}', files=dropin('srv-grain.mount', '[Mount]\nWhat=/dev/disk/by-label/grain\n'))
s('dropin-what-found-nofail', f'{LOST} /srv/grain ext4 nofail,{SHORT} 0 0\n{SILO}', files=dropin('srv-grain.mount', '[Mount]\nWhat=/dev/disk/by-label/grain\n'))
s('dropin-type', f'LABEL=grain /srv/grain xfs defaults 0 0\n{SILO}', files=dropin('srv-grain.mount', '[Mount]\nType=ext4\n'))
s('dropin-options-mended', f'{GRAIN} nosuchword 0 2\n{SILO}', files=dropin('srv-grain.mount', '[Mount]\nOptions=noatime\n'))
s('dropin-read-write-only', f'LABEL=grain /srv/grain ext4 ro 0 0\n{SILO}', files=dropin('srv-grain.mount', '[Mount]\nReadWriteOnly=yes\n'))
s('dropin-sloppy', f'{GRAIN} nosuchword 0 2\n{SILO}', files=dropin('srv-grain.mount', '[Mount]\nSloppyOptions=yes\n'))
s('dropin-conflicts', f'{GRAIN} defaults 0 2\n{SILO}', files=dropin('srv-grain.mount', '[Unit]\nConflicts=srv-silo.mount\n'))
s('dropin-binds-lost', f'{GRAIN} nofail 0 2\n{SILO}', files=dropin('srv-grain.mount', f'[Unit]\nBindsTo={LOST_DEVICE}.device\nAfter={LOST_DEVICE}.device\n'))
s('dropin-requisite-late', f'{GRAIN} defaults 0 2\n{SILO}', files=dropin('srv-grain.mount', '[Unit]\nRequisite=srv-silo.mount\nAfter=srv-silo.mount\n'))
s('dropin-onfailure', f'LABEL=grain /srv/grain xfs nofail 0 0\n{SILO}', files=dropin('srv-grain.mount', '[Unit]\nOnFailure=emergency.target\n'))
s('dropin-onfailure-rescue', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n{SILO}', files=dropin('srv-lost.mount', '[Unit]\nOnFailure=rescue.target\n'))
s('dropin-job-timeout-action', f'{LOST} /srv/lost ext4 nofail 0 0\n{SILO}', files=dropin('srv-lost.mount', '[Unit]\nJobTimeoutSec=15\nJobTimeoutAction=none\n'))
# --- targets made stricter or looser
s('local-fs-no-default', f'{LOST} /srv/lost ext4 {SHORT} 0 2\n{SILO}', files=dropin('local-fs.target', '[Unit]\nOnFailureJobMode=fail\n'))
s('local-fs-rescue', f'{LOST} /srv/lost ext4 {SHORT} 0 2\n{SILO}', files=dropin('local-fs.target', '[Unit]\nOnFailure=rescue.target\n'))
s('local-fs-condition', f'{LOST} /srv/lost ext4 {SHORT} 0 2\n{SILO}', files=dropin('local-fs.target', '[Unit]\nConditionPathExists=/nowhere\n'))
s('sysinit-requires-local', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 2\n{SILO}', files=dropin('sysinit.target', '[Unit]\nRequires=srv-lost.mount\nAfter=srv-lost.mount\n'))
s('basic-requires-remote', f'{LOST} /srv/lost ext4 _netdev,{SHORT} 0 0\n{SILO}', files=dropin('basic.target', '[Unit]\nRequires=remote-fs.target\nAfter=remote-fs.target\n'))
s('multi-user-requires-swap', f'{LOST} none swap {SHORT} 0 0\n{SILO}', files=dropin('multi-user.target', '[Unit]\nRequires=swap.target\n'))
s('multi-user-after-nofail', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=20 0 0\n{SILO}', files=dropin('multi-user.target', '[Unit]\nAfter=srv-lost.mount\n'))
s('emergency-masked', f'{LOST} /srv/lost ext4 {SHORT} 0 2\n{SILO}', files={f'{E}/emergency.target': ''}, limit=200)
s('own-default-target', f'{LOST} /srv/lost ext4 {SHORT} 0 2\n{SILO}', files={f'{E}/own.target': '[Unit]\nRequires=basic.target multi-user.target\nAfter=multi-user.target\nAllowIsolate=yes\n'}, cmdline='systemd.unit=own.target')
# --- own units beside entries
s('own-unit-wins-good', f'{LOST} /srv/grain ext4 {SHORT} 0 0\n{SILO}', files={f'{E}/srv-grain.mount': '[Unit]\nBefore=local-fs.target\n[Mount]\nWhat=LABEL=grain\nWhere=/srv/grain\nType=ext4\n'})
s('own-unit-nofail-lost', f'{GRAIN} nofail 0 0\n{SILO}', files={f'{E}/srv-grain.mount': f'[Mount]\nWhat={LOST}\nWhere=/srv/grain\nType=ext4\nOptions=defaults\n', **dropin(f'{LOST_DEVICE}.device', '[Unit]\nJobRunningTimeoutSec=12\n')})
s('own-unit-wanted', SILO, files={f'{E}/srv-grain.mount': '[Mount]\nWhat=LABEL=grain\nWhere=/srv/grain\nType=xfs\n', **dropin('local-fs.target', '[Unit]\nRequires=srv-grain.mount\n')})
s('own-swap-unit', SILO, files={f'{E}/dev-disk-by\\x2dlabel-reserve.swap': '[Swap]\nWhat=/dev/disk/by-label/reserve\nPriority=7\n', **dropin('swap.target', '[Unit]\nRequires=dev-disk-by\\x2dlabel-reserve.swap\n')})
s('own-automount', f'LABEL=grain /srv/grain ext4 noauto 0 0\n{SILO}', files={f'{E}/srv-grain.automount': '[Automount]\nWhere=/srv/grain\n', **dropin('local-fs.target', '[Unit]\nWants=srv-grain.automount\n')})
# --- services
s('service-first-slow', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/own.service': service('Before=srv-grain.mount\n', run='/bin/sleep 14'), **dropin('srv-grain.mount', '[Unit]\nWants=own.service\n')})
s('service-first-fails-wanted', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/own.service': service('Before=srv-grain.mount\n', run='/bin/false'), **dropin('srv-grain.mount', '[Unit]\nWants=own.service\n')})
s('service-first-fails-required', f'{GRAIN} nofail 0 2\n{SILO}', files={f'{E}/own.service': service('Before=srv-grain.mount\n', run='/bin/false'), **dropin('srv-grain.mount', '[Unit]\nRequires=own.service\n')})
s('service-mounts-itself', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/own.service': service('Before=srv-grain.mount\nAfter=systemd-udev-settle.service systemd-fsck@dev-disk-by\\x2dlabel-grain.service\nWants=systemd-udev-settle.service\n', run='/bin/mount LABEL=grain /srv/grain'), **dropin('srv-grain.mount', '[Unit]\nWants=own.service\n')})
s('service-conflicts', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/own.service': service('Conflicts=srv-grain.mount\n', early=False), **dropin('multi-user.target', '[Unit]\nWants=own.service\n')})
s('service-conflicts-after', f'{GRAIN} nofail 0 2\n{SILO}', files={f'{E}/own.service': service('Conflicts=srv-grain.mount\nAfter=srv-grain.mount\n', early=False), **dropin('multi-user.target', '[Unit]\nWants=own.service\n')})
s('service-needs-mounts-required', f'{LOST} /srv/lost ext4 noauto,{SHORT} 0 0\n{SILO}', files={f'{E}/own.service': service('RequiresMountsFor=/srv/lost/data\n', early=False), **dropin('multi-user.target', '[Unit]\nRequires=own.service\n')})
s('service-wants-noauto', f'LABEL=grain /srv/grain ext4 noauto 0 0\n{SILO}', files={f'{E}/own.service': service('RequiresMountsFor=/srv/grain/data\n', early=False), **dropin('multi-user.target', '[Unit]\nWants=own.service\n')})
s('service-dir-on-mount', f'{LOST} /srv/lost ext4 {SHORT} 0 0\n{SILO}', files={f'{E}/own.service': service('', early=False).replace('ExecStart=', 'WorkingDirectory=/srv/lost\nExecStart='), **dropin('multi-user.target', '[Unit]\nWants=own.service\n')})
s('service-dir-on-noauto-lost', f'{LOST} /srv/lost ext4 noauto,{SHORT} 0 0\n{SILO}', files={f'{E}/own.service': service('', early=False).replace('ExecStart=', 'WorkingDirectory=/srv/lost\nExecStart='), **dropin('multi-user.target', '[Unit]\nWants=own.service\nAfter=own.service\n')})
s('cycle-with-service', f'{GRAIN} x-systemd.after=own.service 0 2\n{SILO}', files={f'{E}/own.service': service('After=multi-user.target\n', early=False)})
s('cycle-required', f'{GRAIN} x-systemd.requires=own.service 0 2\n{SILO}', files={f'{E}/own.service': service('After=basic.target\n', early=False)})
# --- programs that are not there, networks
s('net-nfs-no-program', f'192.0.2.7:/tide /srv/full nfs defaults 0 0\n{SILO}')
s('net-nfs-as-local', f'192.0.2.7:/tide /srv/full nfs nofail,x-systemd.mount-timeout=8 0 0\n{SILO}')
s('net-cifs-no-program', f'//192.0.2.7/tide /srv/full cifs guest 0 0\n{SILO}')
s('net-sshfs-no-program', f'tide@192.0.2.7:/ /srv/full fuse.sshfs defaults 0 0\n{SILO}')
s('net-sshfs-netdev', f'tide@192.0.2.7:/ /srv/full fuse.sshfs _netdev 0 0\n{SILO}')
s('net-davfs-no-program', f'https://tide.example/ /srv/full davfs _netdev,nofail 0 0\n{SILO}')
s('net-on-parent-lost', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n192.0.2.7:/tide /srv/lost/tide nfs defaults 0 0\n{SILO}')
s('net-virtiofs', f'tide /srv/full virtiofs defaults 0 0\n{SILO}')
s('net-virtiofs-nofail', f'tide /srv/full virtiofs nofail 0 0\n{SILO}')
s('net-ceph', f'192.0.2.7:/ /srv/full ceph name=tide,_netdev 0 0\n{SILO}')
s('net-glusterfs', f'192.0.2.7:/tide /srv/full glusterfs defaults 0 0\n{SILO}')
s('net-zfs', f'tank/tide /srv/full zfs defaults 0 0\n{SILO}')
s('net-ntfs-3g', f'LABEL=grain /srv/grain ntfs-3g defaults 0 0\n{SILO}')
s('net-exfat', f'LABEL=grain /srv/grain exfat nofail 0 0\n{SILO}')
# --- names
s('name-partlabel', 'PARTLABEL=ledger /srv/full ext4 defaults 0 2\n', 'bcdefghijk')
s('name-partlabel-blank', r'PARTLABEL=spare\040swap none swap sw 0 0' '\n' + SILO, 'bcdefghijk')
s('name-block', f'/dev/block/98:16 /srv/grain ext4 defaults 0 2\n{SILO}')
s('name-id-lost', f'/dev/disk/by-id/wwn-0x5000 /srv/grain ext4 nofail,{SHORT} 0 2\n{SILO}')
s('name-label-case', f'LABEL=Grain /srv/grain ext4 nofail,{SHORT} 0 2\n{SILO}')
s('name-uuid-upper', f'UUID=5D0C1F0E-6A35-4B1C-9A55-0F6F1F1AB00B /srv/grain ext4 nofail,{SHORT} 0 2\n{SILO}')
s('name-fat-lower', f'UUID=4b1d-7e20 /boot/efi vfat umask=077,nofail,{SHORT} 0 2\n', 'bcdefghij')
s('name-mtab', f'LABEL=grain /srv/./grain/ ext4 defaults 0 2\n/srv/grain/../grain/a /srv/twin none bind 0 0\n{SILO}')
s('name-percent', f'tmpfs /srv/50%d tmpfs size=1m 0 0\n{SILO}')
s('name-dollar', f'tmpfs /srv/$HOME tmpfs size=1m 0 0\n{SILO}')
s('name-backslash', 'tmpfs /srv/a\\134b tmpfs size=1m 0 0\n' + SILO)
s('name-dash', f'tmpfs /srv/-x-y tmpfs size=1m 0 0\n{SILO}')
s('name-bind-percent', '/srv/full/50%n /srv/twin none bind 0 0\n' + SILO)
