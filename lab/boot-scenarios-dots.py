"""Paths with dots and doubled slashes as sources, unit files whose What= is a tag, and what conflicts or fails beside the table:
recorded for what boot-scenarios-mixed.py showed. For --release bookworm (252) and sid (262)."""
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
GRAIN = 'LABEL=grain /srv/grain ext4'
SILO = 'LABEL=silo /srv/silo xfs defaults 0 0\n'
E = '/etc/systemd/system'
SCENARIOS = []


def s(id, fstab, disks='bcd', **kw):
    SCENARIOS.append(dict(id='dots-' + id, fstab=fstab, disks=disks, **kw))


def dropin(unit, text):
    return {f'{E}/{unit}.d/own.conf': text}


s('bind-up', '/srv/full/../full /srv/twin none bind 0 0\n' + SILO)
s('bind-up-nofail', '/srv/full/../full /srv/twin none bind,nofail 0 0\n' + SILO)
s('bind-here', '/srv/./full /srv/twin none bind 0 0\n' + SILO)
s('bind-double', '/srv//full /srv/twin none bind 0 0\n' + SILO)
s('bind-slash', '/srv/full/ /srv/twin none bind 0 0\n' + SILO)
s('swap-up', '/var/swap/../swap/good none swap sw 0 0\n' + SILO)
s('swap-up-nofail', '/var/swap/../swap/good none swap nofail 0 0\n' + SILO)
s('swap-here', '/var/./swap/good none swap sw 0 0\n' + SILO)
s('swap-double', '/var//swap/good none swap sw 0 0\n' + SILO)
s('image-up', '/srv/full/../afile /srv/twin ext4 loop 0 0\n' + SILO)
s('image-up-nofail', '/srv/full/../afile /srv/twin ext4 loop,nofail 0 0\n' + SILO)
s('device-up', '/dev/../dev/disk/by-label/grain /srv/grain ext4 defaults 0 2\n' + SILO)
s('device-up-nofail', '/dev/../dev/disk/by-label/grain /srv/grain ext4 nofail 0 2\n' + SILO)
s('device-here', '/dev/disk/./by-label/grain /srv/grain ext4 nofail 0 0\n' + SILO)
s('overlay-up', 'overlay /srv/twin overlay lowerdir=/srv/full/../full:/srv/rev 0 0\n' + SILO)
s('target-up', f'LABEL=grain /srv/twin/../grain ext4 defaults 0 2\n{SILO}')
s('for-up', f'{GRAIN} x-systemd.requires-mounts-for=/srv/silo/../silo 0 2\n{SILO}')
s('for-up-nofail', f'{GRAIN} nofail,x-systemd.requires-mounts-for=/srv/silo/../silo 0 2\n{SILO}')
s('for-relative', f'{GRAIN} x-systemd.requires-mounts-for=silo 0 2\n{SILO}')
s('what-tag-lost', SILO, files={f'{E}/srv-grain.mount': f'[Mount]\nWhat={LOST}\nWhere=/srv/grain\nType=ext4\n', **dropin('local-fs.target', '[Unit]\nRequires=srv-grain.mount\n')})
s('what-tag-dropin-lost', f'{GRAIN} defaults 0 2\n{SILO}', files=dropin('srv-grain.mount', f'[Mount]\nWhat={LOST}\n'))
s('what-tag-dropin', f'{LOST} /srv/grain ext4 x-systemd.device-timeout=12 0 0\n{SILO}', files=dropin('srv-grain.mount', '[Mount]\nWhat=LABEL=grain\n'))
s('own-unit-wanted-fails', SILO, files={f'{E}/srv-grain.mount': '[Mount]\nWhat=/dev/disk/by-label/grain\nWhere=/srv/grain\nType=xfs\n', **dropin('local-fs.target', '[Unit]\nWants=srv-grain.mount\n')})
s('own-unit-required-good', SILO, files={f'{E}/srv-grain.mount': '[Mount]\nWhat=/dev/disk/by-label/grain\nWhere=/srv/grain\nType=ext4\n', **dropin('local-fs.target', '[Unit]\nRequires=srv-grain.mount\n')})
s('own-unit-multi-user', SILO, files={f'{E}/srv-grain.mount': '[Mount]\nWhat=/dev/disk/by-label/grain\nWhere=/srv/grain\nType=xfs\n', **dropin('multi-user.target', '[Unit]\nRequires=srv-grain.mount\n')})
s('conflicts-nofail', f'{GRAIN} nofail 0 2\n{SILO}', files=dropin('srv-grain.mount', '[Unit]\nConflicts=srv-silo.mount\n'))
s('conflicts-both-nofail', f'{GRAIN} nofail 0 2\nLABEL=silo /srv/silo xfs nofail 0 0\n', files=dropin('srv-grain.mount', '[Unit]\nConflicts=srv-silo.mount\n'))
s('basic-requires-lost', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=12 0 2\n{SILO}', files=dropin('basic.target', '[Unit]\nRequires=srv-lost.mount\n'))
s('sysinit-requires-unordered', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=12 0 2\n{SILO}', files=dropin('sysinit.target', '[Unit]\nRequires=srv-lost.mount\n'))
s('onfailure-lost', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=5 0 2\n{SILO}', files=dropin('srv-lost.mount', '[Unit]\nOnFailure=emergency.target\n'))
s('onfailure-reboot', f'LABEL=grain /srv/grain xfs nofail 0 0\n{SILO}', files=dropin('srv-grain.mount', '[Unit]\nOnFailure=poweroff.target\n'))
s('local-fs-no-onfailure-mode', f'LABEL=grain /srv/grain xfs defaults 0 0\n{SILO}', files=dropin('local-fs.target', '[Unit]\nOnFailureJobMode=replace\n'))
s('local-fs-mode-fail', f'LABEL=grain /srv/grain xfs defaults 0 0\n{SILO}', files=dropin('local-fs.target', '[Unit]\nOnFailureJobMode=fail\n'))
s('device-type-limit-0', f'{LOST} /srv/lost ext4 nofail 0 2\n{SILO}', files=dropin('device', '[Unit]\nJobRunningTimeoutSec=6\n'))
s('device-prefix-limit', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', files=dropin('dev-disk-.device', '[Unit]\nJobRunningTimeoutSec=14\n'))
s('device-type-limit-own', f'{LOST} /srv/lost ext4 x-systemd.device-timeout=18 0 2\n{SILO}', files=dropin('device', '[Unit]\nJobRunningTimeoutSec=8\n'))
s('type-what', f'{GRAIN} nofail 0 2\n{SILO}', files=dropin('srv-.mount', '[Mount]\nWhat=/dev/disk/by-label/silo\nType=xfs\n'))
s('service-needs-lost-noauto', f'{LOST} /srv/lost ext4 noauto,x-systemd.device-timeout=15 0 0\n{SILO}', files={f'{E}/own.service': f'[Unit]\nDefaultDependencies=no\nBefore=sysinit.target\nRequiresMountsFor=/srv/lost\n[Service]\nType=oneshot\nExecStart=/bin/true\n', **dropin('sysinit.target', '[Unit]\nWants=own.service\n')})
