#!/usr/bin/env python3
"""pack-options.py OUT.tsv RAW.jsonl...: what run-options.py recorded, a list a line: type, variant, options, and each kernel's
answer with its mount program's version (+: mounted, i: mounted, and nothing shows it, -: not)."""
import json, sys
out, raws = sys.argv[1], sys.argv[2:]
rows, plain = {}, {}
for path in raws:
    for line in open(path):
        r = json.loads(line)
        kernel, program = '.'.join(r['kernel'].split('.')[:2]).split('-')[0], '.'.join(r['program'].split('.')[:2])
        # What the recorder puts in front of an overlay's options belongs to the list.
        if r['type'] == 'overlay' and 'lowerdir' not in r['options']: r['options'] = 'lowerdir=/tmp/ov/l,upperdir=/tmp/ov/u,workdir=/tmp/ov/w,' + r['options']
        rows.setdefault((r['type'], r['variant'], r['options']), {})[f'{kernel}/{program}'] = '+' if r['accepted'] else '-'
with open(out, 'w') as f:
    for key, answers in sorted(rows.items()):
        f.write('\t'.join(key) + '\t' + ' '.join(f'{k}{v}' for k, v in sorted(answers.items())) + '\n')
print(len(rows), 'lists')
