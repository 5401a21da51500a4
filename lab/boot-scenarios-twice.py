"""One file system at two places: writable and read-only, in both orders, with nofail, of several types."""
SCENARIOS = []
def s(id, fstab, disks='bcd', **k): SCENARIOS.append(dict(id='twice-' + id, fstab=fstab, disks=disks, **k))
G, H = 'LABEL=grain /srv/grain ext4', 'LABEL=grain /srv/twin ext4'
s('rw-ro', f'{G} defaults 0 2\n{H} ro 0 0\n')
s('ro-rw', f'{G} ro 0 2\n{H} defaults 0 0\n')
s('rw-ro-nofail', f'{G} defaults 0 2\n{H} ro,nofail 0 0\n')
s('rw-rw', f'{G} defaults 0 2\n{H} noatime 0 0\n')
s('ro-ro', f'{G} ro 0 2\n{H} ro,noexec 0 0\n')
s('rw-ro-checked', f'{G} defaults 0 2\n{H} ro 0 2\n')
s('ordered', f'{G} defaults 0 2\n{H} ro,x-systemd.requires=/srv/grain 0 0\n')
s('xfs', 'LABEL=silo /srv/silo xfs defaults 0 0\nLABEL=silo /srv/twin xfs ro 0 0\n')
s('btrfs', 'LABEL=press\\040room /srv/press btrfs subvolid=5 0 0\nLABEL=press\\040room /srv/twin btrfs subvolid=5,ro 0 0\n', 'bcde')
s('bind-ro', f'{G} defaults 0 2\n/srv/grain /srv/twin none bind,ro 0 0\n')
s('ro-of-root', 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001 /srv/twin ext4 ro 0 0\n')
s('noauto', f'{G} defaults 0 2\n{H} ro,noauto 0 0\n')
