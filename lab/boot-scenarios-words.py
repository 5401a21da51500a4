"""Boots about the kernel's command line: words that switch the table or swap off, ask for another goal or init, add mounts,
swap and units, name root by number or in forms that only some readers know, and limits. For run-machine.py, --release
bookworm (252) and trixie (257)."""
ROOT = 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001'
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
GRAIN = 'LABEL=grain /srv/grain ext4 defaults 0 2\n'
SILO = 'LABEL=silo /srv/silo xfs defaults 0 0\n'
SWAP = 'LABEL=reserve none swap sw 0 0\n'
E = '/etc/systemd/system'
SCENARIOS = []


def s(id, fstab, cmdline, disks='bcd', **kw):
    SCENARIOS.append(dict(id='word-' + id, fstab=fstab, disks=disks, cmdline=cmdline, limit=kw.pop('limit', 150), **kw))


def unit(run, more=''):
    return f'[Unit]\n[Service]\nType=oneshot\nRemainAfterExit=yes\n{more}ExecStart={run}\n'


# --- the table, and all swap, switched off; how a word is read
s('fstab-off', GRAIN + SWAP, 'fstab=off')
s('fstab-0-then-yes', GRAIN + SWAP, 'fstab=0 fstab=yes')
s('fstab-capitals', GRAIN, 'fstab=No')
s('fstab-empty', GRAIN, 'fstab=')
s('fstab-nonsense', GRAIN, 'fstab=maybe')
s('rd-fstab-no', GRAIN, 'rd.fstab=no')
s('quoted', GRAIN + SWAP, '"systemd.swap=no" tide="high fstab=no"')
s('underscore', f'{LOST} /srv/lost ext4 nofail 0 0\n', 'systemd.unit=multi-user.target systemd.default-device-timeout-sec=6')
s('swap-bare', SWAP, 'systemd.swap')
s('swap-no-file', SWAP + GRAIN, 'systemd.swap=f')
s('swap-no-twice', SWAP, 'systemd.swap=0 systemd.swap=1')
# --- mounts, swap and units that the command line adds
s('mount-extra', SILO, 'systemd.mount-extra=LABEL=grain:/srv/grain:ext4:ro')
s('mount-extra-short', SILO, 'systemd.mount-extra=LABEL=grain:/srv/grain')
s('mount-extra-lost', SILO, 'systemd.mount-extra=/dev/none:/srv/rev:ext4:x-systemd.device-timeout=6')
s('mount-extra-nofail', SILO, 'systemd.mount-extra=/dev/none:/srv/rev:ext4:nofail,x-systemd.device-timeout=6')
s('mount-extra-same', GRAIN, 'systemd.mount-extra=LABEL=silo:/srv/grain:xfs')
s('mount-extra-bad', SILO, 'systemd.mount-extra=/srv/grain')
s('mount-extra-fstab-no', SILO, 'fstab=no systemd.mount-extra=LABEL=grain:/srv/grain:ext4')
s('swap-extra', SILO, 'systemd.swap-extra=LABEL=reserve:pri=7')
s('swap-extra-off', SILO, 'systemd.swap=no systemd.swap-extra=LABEL=reserve')
s('swap-extra-lost', SILO, 'systemd.swap-extra=/dev/none:nofail,x-systemd.device-timeout=6')
s('wants-noauto', 'LABEL=grain /srv/grain ext4 noauto 0 2\n', 'systemd.wants=srv-grain.mount')
s('wants-lost', f'{LOST} /srv/lost ext4 noauto,x-systemd.device-timeout=6 0 0\n', 'systemd.wants=srv-lost.mount')
s('mask-mount', GRAIN + SILO, 'systemd.mask=srv-grain.mount')
s('mask-target', f'{LOST} /srv/lost ext4 x-systemd.device-timeout=6 0 0\n', 'systemd.mask=local-fs.target')
s('mask-emergency', f'{LOST} /srv/lost ext4 x-systemd.device-timeout=6 0 0\n', 'systemd.mask=emergency.target', limit=120)
s('mask-fsck', GRAIN, 'systemd.mask=systemd-fsck@dev-disk-by\\x2dlabel-grain.service')
s('volatile-state', GRAIN, 'systemd.volatile=state')
s('volatile-yes', GRAIN, 'systemd.volatile=yes')
s('volatile-overlay', GRAIN, 'systemd.volatile=overlay')
# --- goals
s('goal-poweroff', GRAIN, 'systemd.unit=poweroff.target', limit=120)
s('goal-absent', GRAIN, 'systemd.unit=gauges.target', limit=120)
s('goal-own', GRAIN, 'systemd.unit=gauges.target', limit=120,
  files={f'{E}/gauges.target': '[Unit]\nRequires=multi-user.target\nAfter=multi-user.target\nAllowIsolate=yes\n'})
s('goal-mount', GRAIN, 'systemd.unit=srv-grain.mount', limit=100)
s('goal-run', GRAIN, 'systemd.run=/bin/true', limit=100)
s('goal-6', GRAIN, '6', limit=100)
s('goal-single-upper', GRAIN, 'single', limit=100)
s('goal-sysinit-rescue', f'{LOST} /srv/lost ext4 x-systemd.device-timeout=6 0 0\n', 'rescue', limit=120)
s('goal-rd', GRAIN, 'rd.systemd.unit=rescue.target rd.break')
# --- init, and the initramfs' own words
s('init-shell', GRAIN, 'init=/bin/sh', limit=70)
s('init-absent', GRAIN, 'init=/sbin/gauge')
s('init-systemd', GRAIN, 'init=/lib/systemd/systemd')
s('break-mount', GRAIN, 'break=mount', limit=70)
s('break-plain', GRAIN, 'break', limit=70)
s('break-nonsense', GRAIN, 'break=tide')
# --- root by other names
s('root-number', GRAIN, 'quiet', root='fe00')
s('root-colon', GRAIN, 'quiet', root='254:0')
s('root-hex', GRAIN, 'quiet', root='0xfe00')
s('root-partuuid-off', GRAIN, 'quiet', root='PARTUUID=0d5c1f0e-6a35-4b1c-9a55-0f6f1f1a0b01/PARTNROFF=1', disks='bcdk', limit=120)
s('root-quoted', GRAIN, 'quiet', root='UUID="5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001"', limit=120)
s('root-capitals', GRAIN, 'quiet', root='UUID=5D0C1F0E-6A35-4B1C-9A55-0F6F1F1A0001', limit=120)
s('root-by-uuid', GRAIN, 'quiet', root='/dev/disk/by-uuid/5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001')
s('root-lost-rootwait', GRAIN, 'rootwait', root=LOST, limit=150)
s('rootflags-ro', GRAIN, 'rootflags=noatime', root_line=False)
s('rw-no-entry', GRAIN, 'rw', root_line=False)
s('ro-no-entry', GRAIN, 'quiet', root_line=False)
s('rw-entry-ro', f'{ROOT} / ext4 ro 0 1\n' + GRAIN, 'rw', root_line=False)
s('mount-usr', GRAIN, f'mount.usr={LOST} mount.usrfstype=ext4')
# --- checks
s('fsck-skip', 'LABEL=cracked /srv/cracked ext4 defaults 0 2\n', 'fsck.mode=skip', disks='bcdj')
s('fsck-repair', 'LABEL=cracked /srv/cracked ext4 defaults 0 2\n', 'fsck.repair=yes', disks='bcdj')
s('fastboot', 'LABEL=cracked /srv/cracked ext4 defaults 0 2\n', 'fastboot', disks='bcdj')
s('quotacheck', 'LABEL=grain /srv/grain ext4 usrquota 0 2\n', 'quotacheck.mode=skip')
# --- limits
s('limit-infinity', f'{LOST} /srv/lost ext4 nofail 0 0\n', 'systemd.default_device_timeout_sec=infinity')
s('limit-0', f'{LOST} /srv/lost ext4 defaults 0 0\n', 'systemd.default_device_timeout_sec=0', limit=150)
s('limit-7', f'{LOST} /srv/lost ext4 defaults 0 0\n', 'systemd.default_device_timeout_sec=7')
s('start-7', f'{LOST} /srv/lost ext4 defaults 0 0\n', 'systemd.default_timeout_start_sec=7', limit=180)
s('conf-infinity', f'{LOST} /srv/lost ext4 defaults 0 0\n', 'quiet', limit=150, files={'/etc/systemd/system.conf.d/own.conf': '[Manager]\nDefaultDeviceTimeoutSec=infinity\n'})
# --- gpt-auto, crypttab
s('gpt-auto-off', GRAIN, 'systemd.gpt_auto=no', disks='bcdk')
s('luks-no', '/dev/mapper/tides /srv/lost ext4 x-systemd.device-timeout=6 0 0\n', 'luks=no', disks='bcm',
  files={'/etc/crypttab': 'tides UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a300a /etc/tides.key luks\n', '/etc/tides.key': 'tides'})
s('luks-crypttab-no', '/dev/mapper/tides /srv/lost ext4 nofail,x-systemd.device-timeout=6 0 0\n', 'luks.crypttab=no', disks='bcm',
  files={'/etc/crypttab': 'tides UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a300a /etc/tides.key luks\n', '/etc/tides.key': 'tides'})
s('luks-uuid', GRAIN, 'luks.uuid=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad', disks='bcm', limit=180)
# --- automounts and odd targets
s('automount-var', 'tmpfs /var/cache tmpfs x-systemd.automount 0 0\n' + GRAIN, 'quiet')
s('var-run', 'tmpfs /var/run/gauges tmpfs size=1m 0 0\n', 'quiet')
s('rw-only', 'LABEL=grain /srv/grain ext4 ro,x-systemd.rw-only 0 2\n', 'quiet')
s('dot-dot', 'tmpfs /srv/../srv/rev tmpfs size=1m 0 0\n' + GRAIN, 'quiet')
