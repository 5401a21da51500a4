#!/usr/bin/env python3
"""record-early.py LAB SCENARIOS.py OUT.jsonl [ID,...]: boots each scenario in the guest under LAB and records what came of it,
what the initramfs said, and when. LAB holds root-early.img, initrd-uml-early and disks/. Needs root, user-mode-linux, cpio.

record-early.py LAB SCRIPT.sh: runs that script in the guest, with the disks of arrays and groups to write to.

Every command line has panic=0: an initramfs that gives up then halts, where it would open a shell."""
import concurrent.futures as cf, json, os, pathlib, re, runpy, subprocess, sys, tempfile, threading, time

lab, scenarios = pathlib.Path(sys.argv[1]), sys.argv[2]
out = sys.argv[3] if len(sys.argv) > 3 else None
only = sys.argv[4].split(',') if len(sys.argv) > 4 else None
ROOT = 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001'
lock = threading.Lock()
EARLY = re.compile(r'(?i)gave up|waiting for|alert|failed to mount|no init|requires a manual|halting|kernel panic|invalid argument|does not exist|begin:|mount:')


def initrd(case, work):
    tree = work / 'tree/scenario'
    tree.mkdir(parents=True)
    table = (f'{ROOT} / ext4 errors=remount-ro 0 1\n' if case.get('root_line', True) else '') + case['fstab']
    files = {'/etc/fstab': table.replace('/dev/vd', '/dev/ubd'), **case.get('files', {})}
    with open(tree / 'list', 'w') as names:
        for n, (path, text) in enumerate(files.items()):
            (tree / str(n)).write_text(text)
            names.write(f'{n} {path}\n')
    archive = subprocess.run('find . | cpio -o -H newc --quiet | gzip -1', shell=True, cwd=work / 'tree', capture_output=True, check=True).stdout
    (work / 'initrd').write_bytes((lab / case.get('initrd', 'initrd-uml-early')).read_bytes() + archive)


def boot(case, keep=False):
    with tempfile.TemporaryDirectory(prefix='boot-', dir=lab) as folder:
        work = pathlib.Path(folder)
        initrd(case, work)
        command = ['linux.uml', 'mem=640M', f'initrd={work}/initrd', f'root={case.get("root", ROOT)}', 'ro', 'panic=0', 'con=null',
                   'con0=fd:0,fd:1', f'report={work}', 'systemd.show_status=1', f'ubd0={work}/cow-a,{lab}/root-early.img']
        command += [f'ubd{n}={"" if keep else f"{work}/cow-{d},"}{lab}/disks/{d}.img' for n, d in enumerate(case['disks'], 1)]
        command += case.get('cmdline', '').split()
        process = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, start_new_session=True,
                                   env=dict(os.environ, HOME='/root', TMPDIR='/dev/shm'))
        began, lines = time.time(), []

        def listen():
            for line in process.stdout:
                text = re.sub(r'\x1b\[[0-9;?]*[a-zA-Z]', '', line.decode(errors='replace').replace('\r', '')).strip()
                lines.append((round(time.time() - began, 1), text))
        ear = threading.Thread(target=listen)
        ear.start()
        try:
            process.wait(case.get('limit', 300))
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, 9)
        ear.join(5)
        report = (work / 'report').read_text(errors='replace') if (work / 'report').exists() else ''
        init = next((at for at, text in lines if 'systemd[1]' in text or 'Welcome to' in text), None)
        early = [(at, text) for at, text in lines if (init is None or at < init) and EARLY.search(text)]
        waited = [(at, text) for at, text in lines if 'Waiting for' in text or 'Gave up' in text]
        return dict(report=report.split('\n'), early=early, init_at=init, waited=waited, wall=round(time.time() - began, 1),
                    console=[text for at, text in lines if init and at >= init and re.search(r'(?i)fail|depend|timed out|emergency|rescue|start job|dropped', text)][-25:],
                    tail=[text for _, text in lines[-6:]])


def one(case):
    result = boot(case)
    with lock, open(out, 'a') as file:
        file.write(json.dumps(case | dict(result=result)) + '\n')
        why = next((line for line in result['report'] if line.startswith('why')), 'no report')
        print(case['id'], why, result['wall'], result['early'][-1:], flush=True)


def run_script():
    report = """#!/bin/sh
out=$(sed -n 's/.*report=\\([^ ]*\\).*/\\1/p' /proc/cmdline); mkdir -p /run/report; mount -t hostfs -o "$out" none /run/report
bash /usr/local/sbin/script >/run/report/report 2>&1; sync; systemctl poweroff --force --force
"""
    files = {'/usr/local/sbin/boot-report': report, '/usr/local/sbin/script': pathlib.Path(scenarios).read_text()}
    disks = ('ra', 'rb', 'sa', 'sb', 'pa', 'pb') if 'make' in scenarios else ('rc',)
    made = boot(dict(fstab='', disks=disks, files=files), keep=True)
    print(*made['report'] if made['report'] != [''] else made['tail'], sep='\n')


if scenarios.endswith('.sh'):
    run_script()
else:
    cases = [c for c in runpy.run_path(scenarios)['SCENARIOS'] if not only or c['id'] in only]
    done = {json.loads(line)['id'] for line in open(out)} if os.path.exists(out) else set()
    with cf.ThreadPoolExecutor(2) as pool:
        list(pool.map(one, [c for c in cases if c['id'] not in done]))
