#!/usr/bin/env python3
"""pack-options.py OUT.tsv RAW.jsonl...: what run-options.py recorded, a list a line: type, variant, options, and each kernel's
answer with its mount program's version (+: mounted, i: mounted, and nothing shows it, -: not). What a server or a file that
is named decided, and not the list, is left out."""
import json, re, sys
out, raws = sys.argv[1], sys.argv[2:]
rows, others = {}, 0
ELSEWHERE = re.compile(r'no end within|error\((13|95|111|112|115|2)\)|Protocol not supported|DNS resolution|credential file|Remote I/O|special device|'
                       r'found PID file|Connection refused|read: Connection reset|Broken pipe|bootsector|open pty|disconnected|failed to resolve|dlopen|No route|no such type|: not found$')
# What names a file, a key or a user that is not there.
NAMED = {'ceph': r'\b(conf|secretfile|fs|secret|key)=', 'davfs': r'\b(conf|uid|gid)=', 'rclone': r'\bconfig=', 'fuse.mergerfs': r'\b(config|setuid)=',
         'fuse.bindfs': r'\b(force-|create-for-|map-|setuid=)', 'fuse.gocryptfs': r'\b(config|extpass|passfile|ctlsock|ko|zerokey|reverse|cpuprofile|memprofile|trace)\b',
         'fuse.s3fs': r'\b(ahbe_conf|load_sse_c|passwd_file|use_cache|bucket|profile|tmpdir|use_sse|setuid|credlib|proxy_cred_file|logfile)=', 'fuse.squashfuse': r'\bsetuid=',
         'fuse.unionfs': r'\b(chroot|dirs|debug_file|setuid)=', 'fuse.fuse-overlayfs': r'(\w+dir|plugins|setuid)='}
for path in raws:
    for line in open(path):
        r = json.loads(line)
        kernel, program = '.'.join(r['kernel'].split('.')[:2]).split('-')[0], '.'.join(r['program'].split('.')[:2])
        # What the recorder puts in front of an overlay's options belongs to the list.
        if r['type'] == 'overlay' and 'lowerdir' not in r['options']: r['options'] = 'lowerdir=/tmp/ov/l,upperdir=/tmp/ov/u,workdir=/tmp/ov/w,' + r['options']
        if not r['accepted'] and 'helpers' in r and (r['exit'] in (124, 0, -11) or ELSEWHERE.search(r['said'])): others += 1; continue
        if r['type'].startswith('?'): continue
        if not r['accepted'] and re.search(NAMED.get(r['type'], '(?!)'), r['options']): others += 1; continue
        # What a late mount.davfs mounted is not the answer of another program.
        if r['accepted'] and r['type'] != 'davfs' and 'max_read=16384' in r['super_opts']: others += 1; continue
        rows.setdefault((r['type'], r['variant'], r['options']), {})[f'{kernel}/{program}'] = '+' if r['accepted'] else '-'
with open(out, 'w') as f:
    for key, answers in sorted(rows.items()):
        f.write('\t'.join(key) + '\t' + ' '.join(f'{k}{v}' for k, v in sorted(answers.items())) + '\n')
print(len(rows), 'lists,', others, 'answers that are not theirs')
