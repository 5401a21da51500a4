#!/usr/bin/env python3
"""compare-records.py A.json B.json [FACT...]: whether two records of one host say the same, figures that change by the
moment apart, and these facts of paths and contents, which may be unknown to the first."""
import json, sys
def read(path):
    r = json.load(open(path))
    r['host'].pop('taken_at_s', None); r['host'].pop('roles', None);
    # Over ssh a host is who the list says.
    r['host']['name'] = r['host'].pop('own_name', r['host']['name']); r.pop('memory', None); r.pop('unread', None)
    for m in r.get('mounts') or []: m.pop('free', None)
    for s in r.get('swaps') or []: s.pop('used', None)
    # Only the device itself can be looked at beyond its first bytes.
    for d in r.get('devices') or []: (d.get('content') or {}).pop('looked_at', None)
    for fact in sys.argv[3:]:
        for p in r.get('paths') or []: p.pop(fact, None)
        for d in r.get('devices') or []: (d.get('content') or {}).pop(fact, None)
    return r
a, b = read(sys.argv[1]), read(sys.argv[2])
differ = [k for k in sorted(set(a) | set(b)) if a.get(k) != b.get(k)]
for key in differ:
    x, y = a.get(key), b.get(key)
    if isinstance(x, list) and isinstance(y, list):
        print(f'{key}: only first: {[i for i in x if i not in y][:3]} only second: {[i for i in y if i not in x][:3]}')
    else:
        print(f'{key}: {str(x)[:300]} | {str(y)[:300]}')
sys.exit(1 if differ else 0)
