"""More boots about crypttab: options that ask for other ways to unlock, that keep from asking, that nobody knows. Disk m is a
LUKS2 container, its passphrase tides, which holds nothing. For run-machine.py on 252."""
U = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a'
M = f'UUID={U}300a'
E = '/dev/mapper/tides /srv/lost ext4 x-systemd.makefs{} 0 0\n'
K = '/etc/tides.key'
SCENARIOS = []


def s(id, crypttab, fstab=E.format(''), **k):
    SCENARIOS.append(dict(id='crypt-' + id, fstab=fstab, disks='bmc', limit=330, files={'/etc/crypttab': crypttab + '\n', K: 'tides'}, **k))


s('headless', f'tides {M} none luks,headless=yes')
s('headless-nofail', f'tides {M} none luks,headless=yes,nofail', E.format(',nofail'))
s('headless-key', f'tides {M} {K} luks,headless=yes')
s('unknown-option', f'tides {M} {K} luks,nofial')
s('keyscript', f'tides {M} none luks,keyscript=/bin/true,timeout=12')
s('tpm2-auto', f'tides {M} none luks,tpm2-device=auto,timeout=12')
s('tpm2-auto-key', f'tides {M} {K} luks,tpm2-device=auto')
s('fido2-auto', f'tides {M} none luks,fido2-device=auto,token-timeout=5,timeout=12')
s('x-initrd', f'tides {M} {K} luks,x-initrd.attach')
s('netdev', f'tides {M} {K} luks,_netdev', E.format(',_netdev'))
s('netdev-container', f'tides {M} {K} luks,_netdev')
s('key-missing-timeout', f'tides {M} /etc/none.key luks,timeout=12')
s('key-on-device', f'tides {M} /key:LABEL=nowhere luks,keyfile-timeout=5,timeout=12')
s('header-missing', f'tides {M} {K} luks,header=/etc/none.header,tries=1')
s('empty-password', f'tides {M} none luks,try-empty-password=yes,timeout=12')
s('plain-key', f'tides /dev/vdd {K} plain,cipher=aes-xts-plain64,size=256', E.format(''))
s('tmp', 'tides /dev/vdd /dev/urandom plain,tmp=ext4', '/dev/mapper/tides /srv/lost ext4 defaults 0 0\n')
s('swap-luks', f'tides {M} /dev/urandom swap', '/dev/mapper/tides none swap sw 0 0\n')
s('noauto-unused', f'tides {M} none luks,noauto', '')
s('two-lines', f'tides {M} {K} luks\ntides UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad {K} luks')
