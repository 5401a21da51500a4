#!/usr/bin/env python3
"""Boots each scenario in a machine emulated in software, with Debian's own kernel, initramfs and userland, and records
what happened. For hosts on which a kernel in user mode does not start. The disks are copy-on-write: nothing is kept
between scenarios. Needs qemu-system-x86 and a lab with root-RELEASE.img, vmlinuz-RELEASE, initrd-RELEASE and disks/.

Usage: LAB=FOLDER run-machine.py SCENARIOS.py OUT.jsonl [--release R] [--jobs N] [--only ID,...]"""
import argparse, base64, gzip, concurrent.futures as cf, io, json, os, re, runpy, shutil, subprocess, tempfile, threading, time
LAB = os.environ['LAB']
ap = argparse.ArgumentParser(); ap.add_argument('scenarios'); ap.add_argument('out'); ap.add_argument('--release', default='bookworm')
ap.add_argument('--jobs', type=int, default=4); ap.add_argument('--only'); ap.add_argument('--limit', type=int, default=420)
a = ap.parse_args()
cases = runpy.run_path(a.scenarios)['SCENARIOS']
if a.only: cases = [c for c in cases if c['id'] in a.only.split(',')]
done = set()
if os.path.exists(a.out): done = {json.loads(l)['id'] for l in open(a.out)}
lock = threading.Lock(); out = open(a.out, 'a')
ROOT = 'UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001'

SHELL = re.compile(r'Press Enter for maintenance|\(or press Control-D to continue\)|Cannot open access to console|dracut:/#|Dropping to debug shell|\(initramfs\)|sh: can.t access tty|Control-D to (continue|proceed)|Halting system|System halted|Kernel panic')

def boot(case):
    w = tempfile.mkdtemp(prefix='boot-', dir=LAB)
    try:
        tree = f'{w}/tree/scenario'; os.makedirs(tree)
        data = case['fstab'] if isinstance(case['fstab'], bytes) else case['fstab'].encode()
        if case.get('root_line', True): data = f'{ROOT} / ext4 errors=remount-ro 0 1\n'.encode() + data
        files = {'/etc/fstab': data, **{p: t.encode() for p, t in case.get('files', {}).items()}}
        with open(f'{tree}/list', 'w') as l:
            for n, (path, content) in enumerate(files.items()):
                open(f'{tree}/{n}', 'wb').write(content); l.write(f'{n} {path}\n')
        cpio = subprocess.run('find . | cpio -o -H newc --quiet | gzip -1', shell=True, cwd=f'{w}/tree', capture_output=True, check=True).stdout
        with open(f'{w}/initrd', 'wb') as f: f.write(open(f'{LAB}/initrd-{a.release}', 'rb').read() + cpio)
        line = f'root={case.get("root", ROOT)} ro console=ttyS0 systemd.show_status=1 ' + case.get('cmdline', '')
        cmd = ['qemu-system-x86_64', '-accel', 'tcg,thread=multi', '-cpu', 'max', '-m', '640', '-smp', '1', '-nographic', *([] if case.get('reboot') else ['-no-reboot']), '-nodefaults', '-monitor', 'none',
               '-kernel', f'{LAB}/vmlinuz-{a.release}', '-initrd', f'{w}/initrd', '-append', line, '-serial', f'file:{w}/console', '-serial', f'file:{w}/report', '-net', 'none']
        for d, p in [('a', f'{LAB}/root-{a.release}.img')] + [(d, f'{LAB}/disks/{d}.img') for d in case.get('disks', 'bcd')]:
            cmd += ['-drive', f'file={p},format=raw,if=virtio,snapshot=on']
        t = time.time(); timed_out = False
        with open(f'{w}/out', 'wb') as con:
            p = subprocess.Popen(cmd, stdin=subprocess.DEVNULL, stdout=con, stderr=con, start_new_session=True, env=dict(os.environ, HOME='/root', TMPDIR='/dev/shm/lab'))
            ended, ended_at = None, None
            while p.poll() is None and not timed_out:
                time.sleep(1)
                timed_out = time.time() - t > case.get('limit', a.limit)
                if ended is None and (m := SHELL.search(open(f'{w}/console', errors='replace').read() if os.path.exists(f'{w}/console') else '')):
                    ended, ended_at = m.group(0), time.time()
                # A shell that waits for somebody changes nothing any more; a report may still follow.
                if ended_at and time.time() - ended_at > 40: break
            if p.poll() is None: os.killpg(p.pid, 9); p.wait()
        rep = open(f'{w}/report', errors='replace').read() if os.path.exists(f'{w}/report') else ''
        con = re.sub(r'\x1b\[[0-9;?]*[a-zA-Z]', '', open(f'{w}/console', errors='replace').read().replace('\r', ''))
        return dict(parse(rep), wall=round(time.time() - t, 1), timed_out=timed_out, shell=ended, stamped=stamped(con), console=[l.strip() for l in con.split('\n') if re.search(r'(?i)fail|depend|timed out|emergency|gave up|does not exist|panic|shell|start job|alert', l)][-25:])
    finally: shutil.rmtree(w, ignore_errors=True)

def stamped(con):
    """What the kernel's log on the console says of waits and ends, with its own clock."""
    return [l.strip()[:160] for l in con.split('\n') if re.search(r'\[ *\d+\.\d+\]', l) and re.search(r'(?i)dracut|systemd|emergency|timed out|panic|mounted|init', l)][-60:]

def parse(rep):
    r = dict(why=None, uptime=None, units={}, failed=[], targets={}, jobs=[], mounted=[], swapped=[], links=[], files={}, log=[])
    r['said'] = re.findall(r'^said (.*)', rep, re.M)
    if 'REPORT-BEGIN' not in rep: return r
    packed = []
    for l in rep.split('REPORT-BEGIN\n', 1)[1].split('\n'):
        k, _, v = l.partition(' ')
        if k == 'why': r['why'] = v
        elif k == 'uptime': r['uptime'] = float(v)
        elif k == 'system': r['system'] = v
        elif k == 'unit': n, load, act, sub = v.split(' ')[:4]; r['units'][n] = f'{load} {act} {sub}'
        elif k == 'failed': r['failed'].append(v)
        elif k == 'target': f = v.split(' '); r['targets'][f[0]] = dict(state=f[1], at_s=round(int(f[2] or 0) / 1e6, 1) if len(f) > 2 else None)
        elif k == 'job': r['jobs'].append(v)
        elif k == 'mounted': r['mounted'].append(v)
        elif k == 'swapped': r['swapped'].append(v)
        elif k == 'link': r['links'].append(v)
        elif k == 'file': n, _, t = v.partition(' '); r['files'].setdefault(n, []).append(t)
        elif k == 'log': r['log'].append(v)
        elif k == 'record': packed.append(v)
    if packed:
        try: r['record'] = json.loads(gzip.decompress(base64.b64decode(''.join(packed))))
        except (ValueError, OSError, EOFError) as e: r['record_error'] = str(e)
    r['files'] = {n: '\n'.join(t) for n, t in r['files'].items()}
    return r

def one(case):
    r = boot(case); rec = {k: (v.decode('latin-1') if isinstance(v, bytes) else v) for k, v in case.items()}; rec['release'] = a.release; rec['result'] = r
    with lock: out.write(json.dumps(rec) + '\n'); out.flush(); print(time.strftime('%H:%M:%S'), case['id'], r['why'], r['uptime'], r['wall'], 'failed:', ','.join(r['failed']), flush=True)

with cf.ThreadPoolExecutor(a.jobs) as ex: list(ex.map(one, [c for c in cases if c['id'] not in done]))
