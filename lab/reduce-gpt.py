#!/usr/bin/env python3
"""Raw boots of boot-scenarios-gpt.py as the fixture of truth_gpt.rs: what was on /home and /srv, and what was swapped on.
usage: reduce-gpt.py RAW.jsonl... > boots-gpt.jsonl"""
import json, sys
ROOT = 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001 / ext4 errors=remount-ro 0 1\n'
for raw in sys.argv[1:]:
    for line in open(raw):
        case = json.loads(line); result = case['result']
        if result['why'] != 'multi-user': continue
        on = lambda target: next((m.split()[0] for m in result['mounted'] if m.split()[1] == target), None)
        print(json.dumps(dict(id=case['id'], systemd='257' if 'trixie' in case['release'] else '252', cmdline=case.get('cmdline', ''),
            table=(ROOT if case.get('root_line', True) else '') + case['fstab'], srv_full='/srv/tide' in case.get('files', {}),
            home=on('/home'), srv=on('/srv'), swaps=[s.split()[0] for s in result['swapped']])))
