#!/usr/bin/env python3
"""make-fleet-record.py DEVICES ENTRIES OUT.json: one made-up host with many disks and a long table, for measurements."""
import json, random, sys, uuid
devices, entries, out = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3]
rng = random.Random(7)
def new(): return str(uuid.UUID(int=rng.getrandbits(128), version=4))
ids = [new() for _ in range(devices)]
record = {
    'schema': 'bradawl.record/1', 'host': {'name': 'archive', 'kernel': '6.1.0', 'init': {'kind': 'systemd', 'version': '252'}},
    'links_complete': True, 'mounts': [], 'swaps': [],
    'devices': [dict(path=f'/dev/sd{n}', kind='disk', size=10**12, content=dict(kind='filesystem', type='xfs', uuid=u, label=f'vault{n}', size=10**12),
                     links=[f'/dev/disk/by-uuid/{u}', f'/dev/disk/by-label/vault{n}']) for n, u in enumerate(ids)],
    # one entry in ten has a digit wrong
    'tables': [dict(path='/etc/fstab', text=''.join(
        f"UUID={u if n % 10 else ('0' if u[0] != '0' else '1') + u[1:]} /srv/vault/{n} xfs noatime,nofail 0 0\n" for n, u in enumerate(ids[:entries])))],
}
json.dump(record, open(out, 'w'))
