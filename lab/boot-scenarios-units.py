"""Boots about the init system's own side: what its generator aborts at or rejects, drop-ins of mounts, targets and devices,
units of one's own, services that entries ask for, time limits, words of the kernel's command line, file systems made and
grown by the boot. The disk "o" is made by mkdisk.sh. For --release bookworm (252) and trixie (257)."""
U = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a'
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
LOST_UNIT = 'dev-disk-by\\x2duuid-0badc0de\\x2d6a35\\x2d4b1c\\x2d9a55\\x2d0f6f1f1a0bad.device'
GRAIN = 'LABEL=grain /srv/grain ext4'
SILO = 'LABEL=silo /srv/silo xfs defaults 0 0\n'
SWAP = 'LABEL=reserve none swap sw 0 0\n'
E = '/etc/systemd/system'
SCENARIOS = []


def s(id, fstab, disks='bcd', **kw):
    SCENARIOS.append(dict(id='unit-' + id, fstab=fstab, disks=disks, **kw))


def service(run, early=True, more=''):
    default = 'DefaultDependencies=no\n' if early else ''
    return f'[Unit]\n{default}[Service]\nType=oneshot\nRemainAfterExit=yes\n{more}ExecStart={run}\n'


# --- the generator aborts, or rejects one entry
s('bare-device-timeout', f'{GRAIN} x-systemd.device-timeout 0 2\n{SILO}')
s('bare-mount-timeout', f'{SILO}{GRAIN} x-systemd.mount-timeout 0 2\n{SWAP}')
s('bare-idle-timeout', f'{GRAIN} x-systemd.automount,x-systemd.idle-timeout 0 2\n{SILO}')
s('bare-old-timeout', f'{GRAIN} comment=systemd.device-timeout 0 2\n{SILO}')
s('bare-nofail', f'{GRAIN} nofail,x-systemd.device-timeout 0 2\n{SILO}')
s('bare-swap', f'LABEL=reserve none swap x-systemd.device-timeout 0 0\n{SILO}')
s('bare-below', f'tmpfs /srv/grain/inner tmpfs size=1m 0 0\n{GRAIN} x-systemd.device-timeout 0 2\n')
s('requires-empty', f'{GRAIN} x-systemd.requires= 0 2\n{SILO}')
s('after-nothing', f'{GRAIN} x-systemd.after=@.service 0 2\n{SILO}')
s('makefs-auto', f'LABEL=grain /srv/grain auto x-systemd.makefs 0 2\n{SILO}')
s('mount-timeout-0', f'{GRAIN} x-systemd.mount-timeout=0 0 2\n')
s('device-timeout-odd', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=x 0 0\n')
# --- drop-ins and targets
s('local-fs-requires-nofail', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n',
  files={f'{E}/local-fs.target.d/own.conf': '[Unit]\nRequires=srv-lost.mount\n'})
s('local-fs-requires-ordered', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n',
  files={f'{E}/local-fs.target.d/own.conf': '[Unit]\nRequires=srv-lost.mount\nAfter=srv-lost.mount\n'})
s('multi-user-requires-nofail', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n',
  files={f'{E}/multi-user.target.d/own.conf': '[Unit]\nRequires=srv-lost.mount\nAfter=srv-lost.mount\n'})
s('multi-user-wants-noauto', f'{GRAIN} noauto 0 2\n', files={f'{E}/multi-user.target.d/own.conf': '[Unit]\nWants=srv-grain.mount\n'})
s('local-fs-wants-noauto-lost', f'{LOST} /srv/lost ext4 noauto,x-systemd.device-timeout=6 0 0\n',
  files={f'{E}/local-fs.target.d/own.conf': '[Unit]\nWants=srv-lost.mount\nAfter=srv-lost.mount\n'})
s('dropin-requires-missing', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Unit]\nRequires=none.service\n'})
s('dropin-requires-missing-nofail', f'{GRAIN} nofail 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Unit]\nRequires=none.service\n'})
s('dropin-condition', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Unit]\nConditionPathExists=/none\n'})
s('dropin-assert', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Unit]\nAssertPathExists=/none\n'})
s('dropin-empty', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': ''})
s('dropin-after-late', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Unit]\nAfter=late.service\nWants=late.service\n', f'{E}/late.service': service('/bin/true', early=False)})
s('dropin-ro', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Mount]\nOptions=ro\n'})
s('dropin-lost', f'{GRAIN} x-systemd.device-timeout=6 0 0\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Mount]\nWhat=/dev/none\n'})
s('dropin-bad-option', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount.d/own.conf': '[Mount]\nOptions=noatme\n'})
s('dropin-swap-condition', SWAP, files={f'{E}/dev-disk-by\\x2dlabel-reserve.swap.d/own.conf': '[Unit]\nConditionPathExists=/none\n'})
s('device-dropin', f'{LOST} /srv/lost ext4 defaults 0 0\n', files={f'{E}/{LOST_UNIT}.d/own.conf': '[Unit]\nJobRunningTimeoutSec=5\n'})
s('device-dropin-over-entry', f'{LOST} /srv/lost ext4 x-systemd.device-timeout=12 0 0\n', files={f'{E}/{LOST_UNIT}.d/90-own.conf': '[Unit]\nJobRunningTimeoutSec=5\n'})
# --- units of one's own
s('own-unit-lost', SILO, files={f'{E}/srv-rev.mount': '[Unit]\n[Mount]\nWhat=/dev/none\nWhere=/srv/rev\nType=ext4\n',
  f'{E}/local-fs.target.d/own.conf': '[Unit]\nRequires=srv-rev.mount\nAfter=srv-rev.mount\n', '/etc/systemd/system.conf.d/own.conf': '[Manager]\nDefaultTimeoutStartSec=8\nDefaultDeviceTimeoutSec=8\n'})
s('own-unit-where', 'LABEL=grain /srv/rev ext4 defaults 0 2\n', files={f'{E}/srv-rev.mount': '[Mount]\nWhat=/dev/disk/by-label/grain\nWhere=/srv/twin\n'})
s('own-unit-empty', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount': ''})
s('own-unit-no-what', f'{GRAIN} defaults 0 2\n', files={f'{E}/srv-grain.mount': '[Mount]\nWhere=/srv/grain\n'})
# --- services
s('service-hangs', f'{GRAIN} x-systemd.requires=hang.service 0 2\n', files={f'{E}/hang.service': service('/bin/sleep 600', more='TimeoutStartSec=6\n')})
s('service-late-fails', f'{GRAIN} x-systemd.requires=late.service 0 2\n', files={f'{E}/late.service': service('/bin/false', early=False)})
s('service-late-nofail', f'{GRAIN} nofail,x-systemd.requires=late.service 0 2\n', files={f'{E}/late.service': service('/bin/true', early=False)})
s('service-after-only', f'{GRAIN} x-systemd.after=hang.service 0 2\n', files={f'{E}/hang.service': service('/bin/sleep 600', more='TimeoutStartSec=6\n')})
s('wants-missing', f'{GRAIN} x-systemd.wants=none.service 0 2\n')
s('requires-missing-swap', 'LABEL=reserve none swap x-systemd.requires=none.service 0 0\n' + SILO)
s('before-late', f'{GRAIN} x-systemd.before=late.service 0 2\n', files={f'{E}/late.service': service('/bin/true', early=False)})
s('needs-mounts-lost', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n{GRAIN} x-systemd.requires-mounts-for=/srv/lost/x 0 2\n')
s('needs-mounts-lost-nofail', f'{LOST} /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n{GRAIN} nofail,x-systemd.requires-mounts-for=/srv/lost/x 0 2\n')
# --- time limits, command line
s('manager-device-5', f'{LOST} /srv/lost ext4 defaults 0 0\n', files={'/etc/systemd/system.conf.d/own.conf': '[Manager]\nDefaultDeviceTimeoutSec=5\n'})
s('manager-device-0', f'{LOST} /srv/lost ext4 defaults 0 0\n', limit=200, files={'/etc/systemd/system.conf.d/own.conf': '[Manager]\nDefaultDeviceTimeoutSec=0\n'})
s('cmdline-fstab-no', f'{GRAIN} defaults 0 2\n{SWAP}', cmdline='fstab=no')
s('cmdline-swap-no', f'{GRAIN} defaults 0 2\n{SWAP}', cmdline='systemd.swap=no')
s('cmdline-mount-extra', SILO, cmdline='systemd.mount-extra=LABEL=grain:/srv/grain:ext4:ro')
s('cmdline-mount-extra-lost', SILO, cmdline='systemd.mount-extra=/dev/none:/srv/rev:ext4:x-systemd.device-timeout=6')
s('cmdline-swap-extra', SILO, cmdline='systemd.swap-extra=LABEL=reserve')
s('cmdline-rescue', f'{GRAIN} defaults 0 2\n', cmdline='rescue')
s('cmdline-wants', SILO, cmdline='systemd.wants=none.service')
# --- made and grown
s('makefs-empty', '/dev/vdd /srv/rev ext4 x-systemd.makefs 0 0\n', disks='bci')
s('makefs-swap', '/dev/vdd none swap x-systemd.makefs 0 0\n', disks='bci')
s('makefs-small', '/dev/vdd /srv/rev xfs x-systemd.makefs 0 0\n', disks='bci')
s('makefs-full', f'{GRAIN} x-systemd.makefs 0 2\n')
s('growfs', f'{GRAIN} x-systemd.growfs 0 2\n{SILO.replace("defaults", "x-systemd.growfs")}')
s('growfs-vfat', 'LABEL=EFISYS /boot/efi vfat x-systemd.growfs 0 0\n', disks='bcdef')
s('quota', f'{GRAIN} usrquota 0 2\n')
s('target-below-ro', 'LABEL=hold\\040two /srv/hold ext4 ro 0 0\ntmpfs /srv/hold/none tmpfs size=1m 0 0\n', disks='bcdo')
