"""Boots of mixed kinds, written down before the model was asked about any: what administrators combine. Drop-ins of targets,
of checks and of entries, masks, swap files behind mounts, networks, directories of the system, several entries for one
target, words of the kernel's command line. For --release bookworm (252) and trixie (257)."""
U = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a'
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
GRAIN = 'LABEL=grain /srv/grain ext4'
SILO = 'LABEL=silo /srv/silo xfs defaults 0 0\n'
E = '/etc/systemd/system'
SHORT = 'x-systemd.device-timeout=6'
SCENARIOS = []


def s(id, fstab, disks='bcd', **kw):
    SCENARIOS.append(dict(id='fresh-' + id, fstab=fstab, disks=disks, **kw))


# --- targets and their drop-ins
s('no-emergency', f'{LOST} /srv/lost ext4 {SHORT} 0 2\n{SILO}', files={f'{E}/local-fs.target.d/own.conf': '[Unit]\nOnFailure=\n'})
s('local-fs-limit', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', files={f'{E}/local-fs.target.d/own.conf': '[Unit]\nJobTimeoutSec=12\n'})
s('entry-job-limit', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', files={f'{E}/srv-lost.mount.d/own.conf': '[Unit]\nJobTimeoutSec=7\n'})
s('entry-wanted-only', f'{LOST} /srv/lost ext4 noauto,{SHORT} 0 0\n{SILO}', files={f'{E}/local-fs.target.d/own.conf': '[Unit]\nWants=srv-lost.mount\n'})
s('required-by', f'{LOST} /srv/lost ext4 nofail,{SHORT},x-systemd.required-by=multi-user.target 0 0\n{SILO}')
s('wanted-by', f'{GRAIN} noauto,x-systemd.wanted-by=multi-user.target 0 2\n{SILO}')
s('network-required', f'{LOST} /srv/lost ext4 _netdev,{SHORT} 0 0\n{SILO}', files={f'{E}/remote-fs.target.d/own.conf': '[Unit]\nRequires=srv-lost.mount\n'})
s('emergency-goal', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', cmdline='systemd.unit=emergency.target')
s('swap-target-requires', f'{LOST} none swap nofail,{SHORT} 0 0\n{SILO}', files={f'{E}/swap.target.d/own.conf': '[Unit]\nRequires=dev-disk-by\\x2duuid-0badc0de\\x2d6a35\\x2d4b1c\\x2d9a55\\x2d0f6f1f1a0bad.swap\n'})
# --- masks
s('mask-parent', f'{GRAIN} defaults 0 2\ntmpfs /srv/grain/inner tmpfs size=1m 0 0\n', files={f'{E}/srv-grain.mount': ''})
s('mask-remount', f'{SILO}', files={f'{E}/systemd-remount-fs.service': ''})
s('mask-word', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', cmdline='systemd.mask=srv-lost.mount')
s('mask-swap-target', f'{LOST} none swap {SHORT} 0 0\n{SILO}', files={f'{E}/swap.target': ''})
s('mask-check', f'LABEL=cracked /srv/grain ext4 defaults 0 2\n{SILO}', 'bcdefghij', files={f'{E}/systemd-fsck@.service': ''})
# --- checks
s('check-skipped', f'LABEL=cracked /srv/grain ext4 defaults 0 2\n{SILO}', 'bcdefghij', cmdline='fsck.mode=skip')
s('check-repairs', f'LABEL=cracked /srv/grain ext4 defaults 0 2\n{SILO}', 'bcdefghij', cmdline='fsck.repair=yes')
s('check-dropin-fails', f'{GRAIN} defaults 0 2\n{SILO}', files={f'{E}/systemd-fsck@.service.d/own.conf': '[Service]\nExecStart=\nExecStart=/bin/false\n'})
s('check-xfs-pass', 'LABEL=silo /srv/silo xfs defaults 0 2\n')
# --- swap files
s('swapfile-behind-lost', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n/srv/lost/swap none swap sw 0 0\n{SILO}')
s('swapfile-behind-lost-nofail', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n/srv/lost/swap none swap nofail 0 0\n{SILO}')
s('swapfile-absent', f'/var/swap/none none swap sw 0 0\n{SILO}')
s('swapfile-twice', f'/var/swap/good none swap sw 0 0\n/var/swap/good none swap pri=5 0 0\n{SILO}')
s('swap-discard-wrong', f'LABEL=reserve none swap discard=often 0 0\n{SILO}')
# --- directories of the system
s('proc-hidepid', f'proc /proc proc hidepid=2 0 0\n{SILO}')
s('proc-bad', f'proc /proc proc hidepid=many 0 0\n{SILO}')
s('shm-small', f'tmpfs /dev/shm tmpfs size=4m,noexec 0 0\n{SILO}')
s('shm-bad', f'tmpfs /dev/shm tmpfs size=4mm 0 0\n{SILO}')
s('run-size', f'tmpfs /run tmpfs size=80m,nosuid 0 0\n{SILO}')
s('tmp-noauto', f'tmpfs /tmp tmpfs noauto,size=5m 0 0\n{SILO}')
s('home-lost-nofail', f'{LOST} /home ext4 nofail,{SHORT} 0 2\n{SILO}')
s('var-lost', f'{LOST} /var ext4 {SHORT} 0 2\n{SILO}')
s('var-lost-nofail', f'{LOST} /var ext4 nofail,{SHORT} 0 2\n{SILO}')
s('efi-automount-lost', f'{LOST} /boot/efi vfat umask=0077,x-systemd.automount,nofail,{SHORT} 0 2\n{SILO}')
s('root-home-wrong-type', 'LABEL=silo /root ext4 nofail 0 0\n')
# --- several lines
s('same-target-nofail-first', f'{LOST} /srv/grain ext4 nofail,{SHORT} 0 0\n{GRAIN} defaults 0 2\n')
s('same-device-twice', f'{GRAIN} defaults 0 2\nLABEL=grain /srv/twin ext4 ro 0 2\n')
s('parent-automount', f'{GRAIN} x-systemd.automount 0 2\ntmpfs /srv/grain/inner tmpfs size=1m 0 0\n')
s('parent-automount-lost', f'{LOST} /srv/lost ext4 x-systemd.automount,{SHORT} 0 2\ntmpfs /srv/lost/inner tmpfs size=1m,nofail 0 0\n{SILO}')
s('bind-chain-lost', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n/srv/lost/a /srv/twin none bind 0 0\n{SILO}')
s('bind-chain-lost-nofail', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n/srv/lost/a /srv/twin none bind,nofail 0 0\n{SILO}')
s('overlay-behind-lost', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\noverlay /srv/twin overlay lowerdir=/srv/lost:/srv/full 0 0\n{SILO}')
s('image-behind-lost', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n/srv/lost/disk.img /srv/twin ext4 loop 0 0\n{SILO}')
# --- services of one's own
s('service-needs-lost', f'{LOST} /srv/lost ext4 nofail,{SHORT} 0 0\n{SILO}', files={f'{E}/own.service': '[Unit]\nRequiresMountsFor=/srv/lost/x\n[Service]\nType=oneshot\nExecStart=/bin/true\n', f'{E}/multi-user.target.d/own.conf': '[Unit]\nRequires=own.service\nAfter=own.service\n'})
s('service-before-local', f'{GRAIN} defaults 0 2\n', files={f'{E}/own.service': '[Unit]\nDefaultDependencies=no\nBefore=local-fs.target\nRequiresMountsFor=/srv/grain\n[Service]\nType=oneshot\nExecStart=/bin/false\n', f'{E}/local-fs.target.d/own.conf': '[Unit]\nRequires=own.service\n'})
# --- words
s('word-device-limit', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', cmdline='systemd.default_device_timeout_sec=9')
s('word-start-limit', f'{LOST} /srv/lost ext4 defaults 0 2\n{SILO}', cmdline='systemd.default_timeout_start_sec=9', files={'/etc/systemd/system.conf.d/own.conf': '[Manager]\nDefaultTimeoutStartSec=8\n'})
s('word-rw-entry-ro', f'UUID={U}0001 / ext4 ro 0 1\n{SILO}', root_line=False, cmdline='rw')
s('word-no-swap', f'{LOST} none swap {SHORT} 0 0\n{SILO}', cmdline='noswap systemd.swap=0')
