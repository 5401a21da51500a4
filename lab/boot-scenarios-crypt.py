"""The scenarios of boots-crypt.jsonl: encrypted containers and what crypttab says of them. Disk m is the container, its
passphrase tides; it holds nothing until it is formatted."""
U = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a'
SCENARIOS = []
M, LOST = f'UUID={U}300a', 'UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
E = '/dev/mapper/tides /srv/lost ext4 x-systemd.makefs{} 0 0\n'
def s(id, crypttab, fstab=E.format(''), key='tides', **k):
    files = {'/etc/crypttab': crypttab + '\n', '/etc/tides.key': key}
    SCENARIOS.append(dict(id='crypt-' + id, fstab=fstab, disks='bmc', files=files, limit=330, **k))
K = '/etc/tides.key'
s('key', f'tides {M} {K} luks')
s('ask', f'tides {M} none luks')
s('ask-nofail', f'tides {M} none luks,nofail', E.format(',nofail'))
s('ask-table-nofail', f'tides {M} none luks', E.format(',nofail'))
s('ask-crypttab-nofail', f'tides {M} none luks,nofail')
s('ask-timeout', f'tides {M} none luks,timeout=12')
s('ask-limit', f'tides {M} none luks', E.format(',x-systemd.device-timeout=12'))
s('lost', f'tides {LOST} none luks')
s('lost-nofail', f'tides {LOST} none luks,nofail', E.format(',nofail'))
s('lost-table-nofail', f'tides {LOST} none luks', E.format(',nofail'))
s('lost-crypttab-nofail', f'tides {LOST} none luks,nofail')
s('lost-limit', f'tides {LOST} none luks,x-systemd.device-timeout=12')
s('wrong-key', f'tides {M} {K} luks,tries=1', key='gulls')
s('no-key', f'tides {M} /etc/gulls.key luks,tries=1')
s('noauto', f'tides {M} {K} luks,noauto')
s('noauto-lost', f'tides {LOST} none luks,noauto')
s('unused-lost', f'tides {LOST} none luks', '')
s('unused-lost-nofail', f'tides {LOST} none luks,nofail', '')
s('unused-ask', f'tides {M} none luks', '')
s('unused-key', f'tides {M} {K} luks', '')
s('swap', 'tides /dev/ubdd /dev/urandom swap,plain', '/dev/mapper/tides none swap sw 0 0\n')
s('absent', '', '/dev/mapper/tides /srv/lost ext4 x-systemd.device-timeout=12 0 0\n')
s('automount', f'tides {M} none luks,noauto', E.format(',noauto,x-systemd.automount'))
