#!/usr/bin/env python3
"""What the kernel showed in /proc/self/mountinfo of every list that it took, as the fixture of truth_shown.rs: kernel, mount program,
type, list, the mount's own options, the file system's; what several kernels show alike stands once.
usage: pack-shown.py ROWS.jsonl[.zst]... | zstd -19 > options-shown.tsv.zst"""
import json, subprocess, sys
rows = {}
for path in sys.argv[1:]:
    rows_of = subprocess.run(['zstd', '-dcf', path], capture_output=True, check=True).stdout.splitlines()
    for line in rows_of:
        r = json.loads(line)
        r.setdefault('fstype', r.get('type')); r.setdefault('util_linux', r.get('program'))
        if not r.get('accepted') or not r['options'] or not r.get('mount_opts') or '\t' in r['options'] or '\n' in r['options']: continue
        # What a late mount.davfs mounted is not the answer of another program.
        if r['fstype'] != 'davfs' and 'max_read=16384' in (r['super_opts'] or ''): continue
        key = (r['fstype'], r['options'], r['mount_opts'], r['super_opts'] or '')
        kernel, program = ('.'.join(r[k].split('.')[:2]) for k in ('kernel', 'util_linux'))
        rows.setdefault(key, []).append(f'{kernel}/{program}')
for key, by in sorted(rows.items()): print('\t'.join((*key, ' '.join(sorted(set(by))))))
