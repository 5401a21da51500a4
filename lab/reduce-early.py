#!/usr/bin/env python3
"""Reduces what record-early.py wrote to what the tests compare.  Usage: reduce-early.py RAW.jsonl > boots-early.jsonl

Times are seconds: `early_s` from the moment the initramfs begins to wait until it gives up or goes on, the others after the
init system began its jobs."""
import json, re, sys

OUTCOMES = {'multi-user': 'login', 'emergency': 'emergency', 'watchdog': 'halfway'}
for line in open(sys.argv[1]):
    case = json.loads(line)
    result = case['result']
    report = [words.split(' ') for words in result['report']]
    of = lambda kind: [words[1:] for words in report if words[0] == kind]
    active = {name: int(at) / 1e6 for name, state, at in (t[:3] for t in of('target')) if state == 'active'}
    began = min(active.values(), default=0)
    at = lambda name: round(active[name] - began, 1) if name in active else None
    said = [text for _, text in result['early']]
    waits = [round(float(m[1]) - began, 1) for m in map(re.compile(r'log \[\s*([\d.]+)\].*Timed out waiting for device').match, result['report']) if m]
    why = next((words[0] for words in of('why')), None)
    outcome = OUTCOMES.get(why, 'no-init' if any('No init found' in s for s in said) else 'no-root')
    if outcome == 'emergency' and 'emergency.target' not in active:
        outcome = 'rescue'
    first = next((when for when, text in result['waited'] if 'Waiting for' in text), None)
    ends = [when for when, text in result['early'] if 'Gave up' in text or 'No init' in text]
    last = ends[-1] if ends else result['init_at']
    root_line = 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001 / ext4 errors=remount-ro 0 1\n' if case.get('root_line', True) else ''
    print(json.dumps(dict(
        id=case['id'], table=root_line + case['fstab'].replace('/dev/vd', '/dev/ubd'), disks=case['disks'],
        root=case.get('root'), cmdline=case.get('cmdline', ''), arrays_early='initrd' not in case, outcome=outcome,
        early_s=round(last - first, 1) if first else 0, waits=waits, login_s=at('multi-user.target'),
        emergency_s=at('emergency.target'),
        mounted=[' '.join(m[:4]) for m in of('mounted') if m[0].startswith('/dev/')], swapped=[s[0] for s in of('swapped')])))
