"""The scenarios of boots-more.jsonl: what the first set of boots of systemd 252 leaves open, with short waits."""
U = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a'
SCENARIOS = []
def s(id, fstab, disks='bcd', **k): SCENARIOS.append(dict(id=id, fstab=fstab, disks=disks, **k))
def each(prefix, disks, *lines):
    for name, line in lines: s(f'{prefix}-{name}', line + '\n', disks)
L = 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
T = 'x-systemd.device-timeout=15'
G, X = 'LABEL=grain /srv/grain ext4', 'LABEL=silo /srv/silo xfs'
# --- devices that never appear
each('lost', 'bcd',
     ('min', f'{L} /srv/lost ext4 x-systemd.device-timeout=1min 0 0'), ('ms', f'{L} /srv/lost ext4 x-systemd.device-timeout=12000ms 0 0'),
     ('twice-timed', f'{L} /srv/lost ext4 x-systemd.device-timeout=12,x-systemd.device-timeout=25 0 0'),
     ('negative', f'{L} /srv/lost ext4 nofail,x-systemd.device-timeout=-5 0 0'), ('empty-time', f'{L} /srv/lost ext4 nofail,x-systemd.device-timeout= 0 0'),
     ('comment-timeout', f'{L} /srv/lost ext4 comment=x-systemd.device-timeout=15 0 0'), ('comment-old', f'{L} /srv/lost ext4 comment=systemd.device-timeout=15 0 0'),
     ('var', f'{L} /var ext4 {T} 0 2'), ('var-log-nofail', f'{L} /var/log ext4 nofail,{T} 0 2'), ('boot', f'{L} /boot ext4 {T} 0 2'), ('efi-nofail', f'{L} /boot/efi vfat nofail,{T} 0 2'),
     ('root-home', f'{L} /root ext4 nofail,{T} 0 0'), ('two-times', f'{L} /srv/lost ext4 x-systemd.device-timeout=25 0 0\nLABEL=nowhere /srv/full ext4 {T} 0 0'),
     ('one-nofail', f'{L} /srv/lost ext4 nofail,{T} 0 0\nLABEL=nowhere /srv/full ext4 x-systemd.device-timeout=25 0 0'),
     ('noauto-automount', f'{L} /srv/lost ext4 noauto,x-systemd.automount,{T} 0 0'), ('nofail-automount', f'{L} /srv/lost ext4 nofail,x-systemd.automount,{T} 0 0'),
     ('below-automount', f'{L} /srv/lost ext4 x-systemd.automount,{T} 0 0\ntmpfs /srv/lost/x tmpfs defaults 0 0'),
     ('bind-device', f'/dev/sdz1 /srv/lost none bind,{T} 0 0'), ('mapper', f'/dev/mapper/tides /srv/lost ext4 {T} 0 0'), ('by-id', f'/dev/disk/by-id/tide-1 /srv/lost ext4 {T} 0 0'),
     ('auto-after-noauto', f'{L} /srv/lost ext4 noauto,auto,{T} 0 0'), ('noauto-after-auto', f'{L} /srv/lost ext4 auto,noauto,{T} 0 0'), ('fail-after-nofail', f'{L} /srv/lost ext4 nofail,fail,{T} 0 0'),
     ('user', f'{L} /srv/lost ext4 user,{T} 0 0'), ('netdev-nofail', f'{L} /srv/lost ext4 _netdev,nofail,{T} 0 0'), ('netdev-short', f'{L} /srv/lost ext4 _netdev,{T} 0 0'), ('initrd', f'{L} /srv/lost ext4 x-initrd.mount,{T} 0 0'),
     ('wanted-by', f'{L} /srv/lost ext4 x-systemd.wanted-by=multi-user.target,{T} 0 0'), ('required-by', f'{L} /srv/lost ext4 nofail,x-systemd.required-by=local-fs.target,{T} 0 0'),
     ('required-by-other', f'{L} /srv/lost ext4 nofail,{T} 0 0\n{G} x-systemd.requires=/srv/lost 0 2'), ('after-of-other', f'{L} /srv/lost ext4 nofail,{T} 0 0\n{G} x-systemd.after=/srv/lost 0 2'),
     ('before-other', f'{L} /srv/lost ext4 nofail,x-systemd.before=/srv/grain,{T} 0 0\n{G} defaults 0 2'), ('requires-device', f'{G} x-systemd.requires=/dev/sdz1 0 2'),
     ('chain', f'{L} /srv/lost ext4 nofail,{T} 0 0\n/srv/lost /srv/rev none bind,nofail 0 0\n/srv/rev/x /srv/twin none bind,nofail 0 0'),
     ('deep', f'{L} /srv/deep ext4 {T} 0 0\nLABEL=grain /srv/deep/inner ext4 defaults 0 2'), ('makefs', f'/dev/sdz1 /srv/lost ext4 x-systemd.makefs,{T} 0 0'), ('growfs', f'{L} /srv/lost ext4 nofail,x-systemd.growfs,{T} 0 0'),
     ('srv-nofail', f'{L} /srv ext4 nofail,{T} 0 0\n{G} defaults 0 2'), ('infinite-nofail', f'{L} /srv/lost ext4 nofail,x-systemd.device-timeout=infinity 0 0'), ('tmp', f'{L} /tmp ext4 {T} 0 0'))
s('lost-infinite', f'{L} /srv/lost ext4 x-systemd.device-timeout=infinity 0 0\n')
# --- swap
each('swap', 'bcd',
     ('noauto', f'{L} none swap noauto,{T} 0 0'), ('netdev', f'{L} none swap _netdev,{T} 0 0'), ('two-lost', f'{L} none swap {T} 0 0\nLABEL=nowhere none swap x-systemd.device-timeout=25 0 0'),
     ('on-target', 'LABEL=reserve /srv/lost swap defaults 0 0'), ('on-xfs', 'LABEL=silo none swap sw 0 0'), ('on-xfs-nofail', 'LABEL=silo none swap nofail 0 0'), ('path', '/dev/vdc none swap sw 0 0'),
     ('file-loose-pri', '/var/swap/loose none swap pri=5 0 0'), ('file-relative', 'var/swap/good none swap sw 0 0'), ('file-twice', '/var/swap/good none swap sw 0 0\n/var/swap//good none swap sw 0 0'),
     ('unknown-option', 'LABEL=reserve none swap sw,frobnicate 0 0'), ('pri-high', 'LABEL=reserve none swap pri=99999 0 0'), ('automount', 'LABEL=reserve none swap x-systemd.automount 0 0'), ('directory', '/srv/full none swap sw 0 0'),
     ('lost-and-mount', f'{L} none swap {T} 0 0\n{G} defaults 0 2'), ('type-upper', 'LABEL=reserve none SWAP sw 0 0'), ('requires-lost', f'{L} /srv/lost ext4 nofail,{T} 0 0\nLABEL=reserve none swap x-systemd.requires=/srv/lost 0 0'))
each('swap', 'bi', ('empty-disk', '/dev/vdc none swap sw 0 0'))
each('swap', 'bm', ('luks', f'UUID={U}300a none swap {T} 0 0'))
# --- types
each('type', 'bcdefl',
     ('msdos', 'LABEL=EFISYS /boot/efi msdos defaults 0 0'), ('ext2-on-ext4', 'LABEL=grain /srv/grain ext2 nofail 0 0'), ('ext4-on-ext2', 'LABEL=oldie /srv/lost ext4 defaults 0 2'), ('ext3-on-ext2', 'LABEL=oldie /srv/lost ext3 defaults 0 2'),
     ('btrfs-on-ext4', 'LABEL=grain /srv/grain btrfs nofail 0 0'), ('auto-on-swap', 'LABEL=reserve /srv/lost auto nofail 0 0'), ('list-wrong', 'LABEL=grain /srv/grain xfs,btrfs nofail 0 0'), ('upper', 'LABEL=grain /srv/grain EXT4 nofail 0 0'),
     ('overlay', 'overlay /srv/lost overlay lowerdir=/srv/full,upperdir=/srv/rev,workdir=/srv/twin 0 0'), ('overlay-bad', 'overlay /srv/lost overlay nofail 0 0'), ('proc-elsewhere', 'proc /srv/lost proc defaults 0 0'), ('ramfs', 'none /srv/lost ramfs size=1m 0 0'),
     ('cifs', '//tidehost.example/log /srv/lost cifs nofail,guest 0 0'), ('iso', 'LABEL=grain /srv/grain iso9660 nofail 0 0'), ('squashfs', 'LABEL=grain /srv/grain squashfs nofail 0 0'), ('fuseblk', 'LABEL=grain /srv/grain fuseblk nofail 0 0'),
     ('tmpfs-device', 'LABEL=grain /srv/grain tmpfs defaults 0 0'), ('nfs-nofail', 'tidehost.example:/x /srv/lost nfs nofail 0 0'), ('nfs-noauto', 'tidehost.example:/x /srv/lost nfs noauto 0 0'), ('sshfs', 'tidehost.example:/x /srv/lost fuse.sshfs nofail 0 0'), ('ntfs3', 'LABEL=EFISYS /boot/efi ntfs3 nofail 0 0'))
each('type', 'bm', ('auto-on-luks', f'UUID={U}300a /srv/lost auto nofail,{T} 0 0'))
# --- options
each('opt', 'bcdef',
     ('commit-word', f'{G} nofail,commit=soon 0 2'), ('data-word', f'{G} nofail,data=none 0 2'), ('errors-word', f'{G} nofail,errors=explode 0 2'), ('logbufs', f'{X} nofail,logbufs=9 0 0'), ('subvolid', 'LABEL=press\\040room /srv/press btrfs subvolid=5 0 0'),
     ('compress-bad', 'LABEL=press\\040room /srv/press btrfs nofail,compress=lzma 0 0'), ('compress-level', 'LABEL=press\\040room /srv/press btrfs compress=zstd:3 0 0'), ('umask-word', 'LABEL=EFISYS /boot/efi vfat nofail,umask=abc 0 0'), ('uid-name', 'LABEL=EFISYS /boot/efi vfat uid=nobody 0 0'), ('uid-nobody-there', 'LABEL=EFISYS /boot/efi vfat nofail,uid=pilot 0 0'),
     ('iocharset', 'LABEL=EFISYS /boot/efi vfat nofail,iocharset=none 0 0'), ('tmpfs-mode', 'tmpfs /srv/lost tmpfs nofail,mode=9999x 0 0'), ('tmpfs-percent', 'tmpfs /srv/lost tmpfs size=10% 0 0'), ('loop-file', '/srv/afile /srv/lost ext4 loop,nofail 0 0'), ('mkdir', 'LABEL=grain /srv/new/place ext4 X-mount.mkdir 0 2'),
     ('bind-ro', '/srv/full /srv/lost none bind,ro 0 0'), ('rbind', '/srv /srv/lost none rbind 0 0'), ('bind-auto', '/srv/full /srv/lost auto bind 0 0'), ('bind-ext4', '/srv/full /srv/lost ext4 bind 0 0'), ('remount', f'{G} nofail,remount 0 2'), ('dash', f'{G} - 0 2'), ('dash-nofail', 'LABEL=silo /srv/silo xfs -,nofail 0 0'),
     ('after-absent', f'{G} x-systemd.after=tide.service 0 2'), ('requires-manual', f'{X} noauto 0 0\n{G} x-systemd.requires=/srv/silo 0 2'), ('requires-swap', f'{G} x-systemd.requires=swap.target 0 2'), ('mounts-for-nowhere', f'{G} x-systemd.requires-mounts-for=/nowhere 0 2'), ('idle', f'{G} x-systemd.automount,x-systemd.idle-timeout=10 0 2'),
     ('rw-only', f'{G} x-systemd.rw-only,ro 0 2'), ('makefs-full', f'{G} x-systemd.makefs 0 2'), ('remote-target', f'{G} x-systemd.wanted-by=remote-fs.target 0 2'), ('network-online', f'{G} x-systemd.requires=network-online.target 0 2'), ('owner', f'{G} owner,group 0 2'), ('quoted', f'{G} "noatime" 0 2'), ('quota-ext4-bad', f'{G} nofail,usrjquota=aquota.user 0 2'), ('upper', f'{G} nofail,NOATIME 0 2'))
# --- checks
each('pass', 'bcdefghj',
     ('nine', f'{G} defaults 0 9'), ('negative', f'{G} defaults 0 -1'), ('btrfs', 'LABEL=press\\040room /srv/press btrfs defaults 0 2'), ('cracked-0', 'LABEL=cracked /srv/lost ext4 nofail 0 0'), ('cracked-0-required', 'LABEL=cracked /srv/lost ext4 defaults 0 0'), ('cracked-noauto', 'LABEL=cracked /srv/lost ext4 noauto 0 2'),
     ('cracked-automount', 'LABEL=cracked /srv/lost ext4 x-systemd.automount 0 2'), ('twins', f'LABEL=twin /srv/twin ext4 defaults 0 2\nUUID={U}9009 /srv/rev ext4 nofail 0 2'), ('vfat', 'LABEL=EFISYS /boot/efi vfat defaults 0 2'), ('auto', 'LABEL=grain /srv/grain auto defaults 0 2'), ('cracked-auto', 'LABEL=cracked /srv/lost auto nofail 0 2'), ('wrong-type', 'LABEL=silo /srv/silo ext4 nofail 0 2'))
# --- targets
each('mp', 'bcd',
     ('dot', 'LABEL=grain /srv/grain/. ext4 nofail 0 2'), ('dotdot', 'LABEL=grain /srv/../srv/grain ext4 nofail 0 2'), ('below-file', 'LABEL=grain /srv/afile/x ext4 nofail 0 2'), ('through-link', 'LABEL=grain /srv/link/inner ext4 defaults 0 2'), ('root-twice', 'LABEL=grain / ext4 defaults 0 2'), ('over-srv', f'LABEL=silo /srv xfs defaults 0 0\n{G} defaults 0 2'),
     ('tmp', 'LABEL=grain /tmp ext4 defaults 0 2'), ('var-log', 'LABEL=grain /var/log ext4 defaults 0 2'), ('run', 'LABEL=grain /run/tide ext4 defaults 0 2'), ('dev', 'LABEL=grain /dev/tide ext4 nofail 0 2'), ('sys', 'LABEL=grain /sys/fs/tide ext4 nofail 0 2'), ('bind-self', '/srv/full /srv/full none bind 0 0'), ('bind-file-absent', '/srv/afile /srv/bfile none bind,nofail 0 0'),
     ('bind-file-dir', '/srv/afile /srv/lost none bind,nofail 0 0'), ('bind-dir-file', '/srv/full /srv/afile none bind,nofail 0 0'), ('bind-into', f'{G} defaults 0 2\n/srv/grain /srv/rev none bind 0 0\ntmpfs /srv/rev/x tmpfs defaults 0 0'), ('bind-before', f'/srv/grain /srv/rev none bind 0 0\n{G} defaults 0 2'), ('hash', 'LABEL=grain /srv/a#b ext4 defaults 0 2'),
     ('unicode', 'LABEL=grain /srv/gezeiten-über ext4 defaults 0 2'), ('long', f'LABEL=grain /srv/{"tide" * 60} ext4 nofail 0 2'), ('very-long', f'LABEL=grain /srv/{"tide" * 70} ext4 nofail 0 2'), ('quoted', 'LABEL=grain "/srv/grain" ext4 nofail 0 2'), ('swap-word', 'LABEL=grain swap ext4 nofail 0 2'), ('stacked', f'{G} defaults 0 2\n{X.replace("silo xfs", "grain/a xfs")} defaults 0 0\ntmpfs /srv/grain/a/b tmpfs defaults 0 0'),
     ('automount-parent', f'{X} x-systemd.automount 0 0\ntmpfs /srv/silo/x tmpfs defaults 0 0'), ('home-bind', '/srv/full /home none bind 0 0'), ('afile-nofail', 'LABEL=grain /srv/afile ext4 nofail 0 2'), ('twice-nofail', f'{L} /srv/grain ext4 nofail,{T} 0 0\n{G} defaults 0 2'), ('proc-twice', 'proc /proc proc hidepid=2 0 0\nproc /proc proc defaults 0 0'), ('opt-run-lock', 'tmpfs /run/lock tmpfs size=5m 0 0'))
# --- identity
each('id', 'bcdefk',
     ('label-x20', f'LABEL=press\\x20room /srv/press btrfs nofail,{T} 0 0'), ('partuuid-upper', f'PARTUUID={U.upper()}0B01 /srv/grain ext4 nofail,{T} 0 2'), ('braces', f'UUID={{{U}b00b}} /srv/grain ext4 nofail,{T} 0 2'), ('label-fat', 'LABEL=EFISYS /boot/efi vfat defaults 0 1'), ('tag-id', f'ID=tide /srv/lost ext4 nofail,{T} 0 0'), ('uuid-empty', f'UUID= /srv/lost ext4 nofail,{T} 0 0'), ('label-empty', f'LABEL= /srv/lost ext4 nofail,{T} 0 0'),
     ('by-label-040', f'/dev/disk/by-label/press\\040room /srv/press btrfs nofail,{T} 0 0'), ('by-label-x20', '/dev/disk/by-label/press\\x20room /srv/press btrfs defaults 0 0'), ('dev-slash', f'/dev/vdb/ /srv/grain ext4 nofail,{T} 0 2'), ('dev-double', '/dev//vdb /srv/grain ext4 defaults 0 2'), ('dev-dots', f'/dev/disk/by-uuid/../by-label/grain /srv/grain ext4 nofail,{T} 0 2'), ('relative', f'dev/vdb /srv/grain ext4 nofail,{T} 0 2'),
     ('single-quotes', "LABEL='grain' /srv/grain ext4 nofail 0 2"), ('half-quote', f'LABEL="grain /srv/grain ext4 nofail,{T} 0 2'), ('partuuid', f'PARTUUID={U}0b01 /srv/lost ext4 defaults 0 2'), ('whole-disk', f'/dev/vdg /srv/lost ext4 nofail,{T} 0 2'), ('partition-path', '/dev/vdg1 /srv/lost ext4 defaults 0 2'), ('uuid-label-mixed', f'UUID=grain /srv/grain ext4 nofail,{T} 0 2'), ('swap-partuuid', f'PARTUUID={U}0b02 none swap sw 0 0'), ('colon', f'UUID:{U}b00b /srv/grain ext4 nofail,{T} 0 2'), ('spaced', f'UUID = {U}b00b /srv/grain ext4 nofail 0 2'))
# --- the file itself
each('file', 'bcd',
     ('seven-fields', f'{G} defaults 0 2 extra'), ('tabs', 'LABEL=grain\t/srv/grain\text4\tdefaults\t0\t2'), ('one-field', 'LABEL=grain'), ('continued', 'LABEL=grain /srv/grain \\\next4 defaults 0 2'), ('blank-first', f'\n\n{G} defaults 0 2'), ('repeated', f'{G} defaults 0 2\n{G} defaults 0 2'), ('hash-in-source', '#LABEL=grain /srv/grain ext4 defaults 0 2'), ('cr-alone', f'{G} defaults 0 2\r{X} defaults 0 0'), ('vertical-tab', 'LABEL=grain\v/srv/grain ext4 defaults 0 2'))
s('file-latin1', b'LABEL=grain /srv/gr\xe4in ext4 nofail 0 2\n')
s('file-long-line', f'{G} nofail,{",".join(["noatime"] * 700)} 0 2\n{X} defaults 0 0\n')
# --- root
for name, line in (('twice', f'UUID={U}0001 / ext4 errors=remount-ro 0 1\nUUID={U}0001 / ext4 ro 0 1'), ('nofail', f'UUID={U}0001 / ext4 nofail 0 1'), ('noauto', f'UUID={U}0001 / ext4 noauto 0 1'), ('label', 'LABEL=hull / ext4 defaults 0 1'), ('pass-2', f'UUID={U}0001 / ext4 defaults 0 2'), ('timeout-0', f'UUID={U}0001 / ext4 x-systemd.device-timeout=0 0 1'),
                   ('path', '/dev/vda / ext4 defaults 0 1'), ('other-disk', 'LABEL=grain / ext4 defaults 0 1'), ('auto', f'UUID={U}0001 / auto defaults 0 1'), ('two-fields', f'UUID={U}0001 /'), ('word', '/dev/root / ext4 defaults 0 1'), ('bad-value', f'UUID={U}0001 / ext4 commit=soon 0 1'), ('x-option', f'UUID={U}0001 / ext4 x-systemd.growfs,noatime 0 1'), ('tmpfs', 'tmpfs / tmpfs defaults 0 0'), ('typo-twice', f'UUID={U}0001 / ext4 noatme 0 1\n{G} defaults 0 2'), ('quota', f'UUID={U}0001 / ext4 usrquota 0 1'), ('defaults-ro', f'UUID={U}0001 / ext4 defaults,ro 0 1')):
    s(f'root-{name}', line + '\n', root_line=False)
# --- files of the host
def unit(text): return text.replace(';', '\n') + '\n'
s('unit-drop-in', f'{L} /srv/lost ext4 nofail 0 0\n{G} noatme 0 2\n', files={'/etc/systemd/system/srv-grain.mount.d/a.conf': unit('[Mount];Options=noatime')})
s('unit-masked', f'{L} /srv/lost ext4 nofail,{T} 0 0\n{G} defaults 0 2\n', files={'/etc/systemd/system/srv-grain.mount': ''})
s('unit-lost', f'{G} defaults 0 2\n', files={'/etc/systemd/system/srv-grain.mount': unit(f'[Mount];What=/dev/disk/by-label/nowhere;Where=/srv/grain;Type=ext4')})
s('unit-lost-nofail', f'{G} nofail 0 2\n', files={'/etc/systemd/system/srv-grain.mount': unit(f'[Mount];What=/dev/disk/by-label/nowhere;Where=/srv/grain;Type=ext4')})
s('conf-timeout', f'{L} /srv/lost ext4 defaults 0 0\n', files={'/etc/systemd/system.conf.d/a.conf': unit('[Manager];DefaultDeviceTimeoutSec=20')})
s('conf-start-timeout', f'{L} /srv/lost ext4 defaults 0 0\n', files={'/etc/systemd/system.conf.d/a.conf': unit('[Manager];DefaultTimeoutStartSec=20')})
s('conf-both', f'{L} /srv/lost ext4 nofail 0 0\nLABEL=nowhere none swap sw 0 0\n', files={'/etc/systemd/system.conf.d/a.conf': unit('[Manager];DefaultDeviceTimeoutSec=20')})
