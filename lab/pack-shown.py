#!/usr/bin/env python3
"""What the kernel showed in /proc/self/mountinfo of every list that it took, as the fixture of truth_shown.rs: kernel, mount program,
type, list, the mount's own options, the file system's; what several kernels show alike stands once.
usage: pack-shown.py ROWS.jsonl.zst... | zstd -19 > options-shown.tsv.zst"""
import json, subprocess, sys
rows = {}
for path in sys.argv[1:]:
    for line in subprocess.run(['zstd', '-dc', path], capture_output=True, check=True).stdout.splitlines():
        r = json.loads(line)
        if not r.get('accepted') or not r['options'] or r.get('mount_opts') is None or '\t' in r['options'] or '\n' in r['options']: continue
        key = (r['fstype'], r['options'], r['mount_opts'], r['super_opts'] or '')
        kernel = '.'.join(r['kernel'].split('.')[:2])
        rows.setdefault(key, []).append(f'{kernel}/{r["util_linux"]}')
for key, by in sorted(rows.items()): print('\t'.join((*key, ' '.join(sorted(set(by))))))
