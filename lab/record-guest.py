#!/usr/bin/env python3
"""record-guest.py LAB PROGRAM BOOTS.jsonl OUT.json: the record that the program takes inside the guest of the recorded
boots, with all of their disks attached and with facts about every path that their tables name. LAB is the folder with
the guest's images (root-bookworm.img, initrd-uml-bookworm, disks/). Needs root, user-mode-linux, cpio.

With --try SCRIPT in place of BOOTS.jsonl, runs a script of this folder inside the guest and prints what it says."""
import json, os, pathlib, re, shutil, subprocess, sys, tempfile

lab, program, boots, out = pathlib.Path(sys.argv[1]), sys.argv[2], sys.argv[3], sys.argv[4]
script = out if boots == '--try' else None
ROOT = 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001'
REPORT = r'''#!/bin/sh
out=$(sed -n 's/.*report=\([^ ]*\).*/\1/p' /proc/cmdline)
mkdir -p /run/report /run/share; mount -t hostfs -o "$out" none /run/report; mount -t hostfs -o SHARE none /run/share
mount -o remount,exec /run; cp /run/share/program /run/bradawl
RUN
sync; systemctl poweroff --force --force
'''
tables = ''
if not script:
    lines = []
    for boot in map(json.loads, open(boots)):
        for line in boot['table'].replace('/dev/vd', '/dev/ubd').split('\n'):
            if line.strip() and not line.lstrip().startswith('#') and '\0' not in line and line not in lines:
                lines.append(line)
    tables = '\n'.join(lines) + '\n'
work = pathlib.Path(tempfile.mkdtemp(prefix='guest-', dir=lab))
try:
    share = work / 'share'; share.mkdir()
    shutil.copy(program, share / 'program')
    (share / 'tables').write_text(tables)
    run = '/run/bradawl survey --table /run/share/tables -o /run/record.json >/run/report/said 2>&1; cp /run/record.json /run/report/record.json'
    if script:
        shutil.copy(script, share / 'script')
        run = 'cd /run; bash /run/share/script /run/bradawl >/run/report/said 2>&1'
    tree = work / 'tree/scenario'; tree.mkdir(parents=True)
    files = {'/etc/fstab': f'{ROOT} / ext4 errors=remount-ro 0 1\n',
             '/usr/local/sbin/boot-report': REPORT.replace('SHARE', str(share)).replace('RUN', run)}
    with open(tree / 'list', 'w') as names:
        for n, (path, text) in enumerate(files.items()):
            (tree / str(n)).write_text(text); names.write(f'{n} {path}\n')
    archive = subprocess.run('find . | cpio -o -H newc --quiet | gzip -1', shell=True, cwd=work / 'tree', capture_output=True, check=True).stdout
    (work / 'initrd').write_bytes((lab / 'initrd-uml-bookworm').read_bytes() + archive)
    command = ['linux.uml', 'mem=900M', f'initrd={work}/initrd', f'root={ROOT}', 'ro', 'con=null', 'con0=fd:0,fd:1',
               f'report={work}', f'ubd0={work}/cow-a,{lab}/root-bookworm.img']
    command += [f'ubd{n}={work}/cow-{d},{lab}/disks/{d}.img' for n, d in enumerate('bcdefghijklmn', 1)]
    with open(work / 'console', 'wb') as console:
        subprocess.run(command, stdin=subprocess.DEVNULL, stdout=console, stderr=console, timeout=600, start_new_session=True,
                       env=dict(os.environ, HOME='/root', TMPDIR='/dev/shm'))
    print((work / 'said').read_text() if (work / 'said').exists() else (work / 'console').read_text(errors='replace')[-3000:])
    if not script:
        record = json.load(open(work / 'record.json'))
        # What the test puts in its place, and what is no fact about the guest.
        record['tables'] = []
        record['command_line'] = re.sub(r' ?(report|initrd|ubd\d+|con0?|mem)=\S+', '', record['command_line'])
        json.dump(record, open(out, 'w'), indent=1)
finally:
    shutil.rmtree(work, ignore_errors=True)
