"""/usr of its own where the initramfs has busybox's mount program in place of klibc's: what it takes, refuses and ignores.
The guest has busybox installed and the table put in place before the initramfs looks for /usr in it (as build-early.sh does)."""
SCENARIOS = []
USR = 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a900a'
LOST = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
def s(id, fstab, **k): SCENARIOS.append(dict(id=id, fstab=fstab, disks=['b', 'usr'], limit=240, **k))
for name, options in dict(plain='defaults', nofail='nofail', noauto='noauto', user='user,exec', users='users,exec', owner='owner,exec', group='group,exec',
        netdev='_netdev', comment='comment=tides', x='x-systemd.device-timeout=9', xc='X-mount.mkdir', relatime='ro,nodev,relatime',
        errors='errors=remount-ro', typo='noatme', lazytime='lazytime', strictatime='strictatime', mand='mand', silent='silent', uhelper='uhelper=tides', auto='auto',
        nosymfollow='nosymfollow', acl='acl', atime='ro,noatime,nodiratime,sync', nouser='nouser').items():
    s(f'bb-usr-{name}', f'{USR} /usr ext4 {options} 0 2\n')
s('bb-usr-lost', f'{LOST} /usr ext4 defaults 0 2\n')
s('bb-usr-lost-nofail', f'{LOST} /usr ext4 nofail 0 2\n')
s('bb-usr-wrong-type', f'{USR} /usr xfs defaults 0 2\n')
s('bb-usr-type-auto', f'{USR} /usr auto defaults 0 2\n')
s('bb-usr-type-list', f'{USR} /usr xfs,ext4 defaults 0 2\n')
s('bb-usr-bind', '/srv/full /usr none bind 0 0\n')
s('bb-usr-label-nofail', 'LABEL=usr /usr ext4 noatime,nofail 0 2\n')
s('bb-usr-nfs', 'tidehost.example:/usr /usr nfs ro 0 0\n')
s('bb-usr-two-fields', f'{USR} /usr\n')
s('bb-usr-three-fields', f'{USR} /usr ext4\n')
s('bb-usr-slash', f'{USR} /usr/ ext4 nofail 0 2\n')
