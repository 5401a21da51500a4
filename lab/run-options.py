#!/usr/bin/env python3
"""run-options.py LAB RELEASE LISTS OUT.jsonl [COUNT [RECORDER]]: asks a release's kernel and mount program about lists (option-lists.py)
in an emulated machine, a part of them a boot; what is in OUT already is not asked again. RECORDER: the script in the
guest, record-options.py or, for types that a program mounts, record-helpers.py. With POLICY=FILE in the environment the
kernel runs with SELinux and this policy (the package selinux-policy-default makes one in /etc/selinux/default/policy)."""
import json, os, pathlib, subprocess, sys, tempfile, time
lab, release, lists, out = pathlib.Path(sys.argv[1]), sys.argv[2], sys.argv[3], sys.argv[4]
most = int(sys.argv[5]) if len(sys.argv) > 5 else 10**9
recorder = sys.argv[6] if len(sys.argv) > 6 else 'record-options.py'
rows = [l.split('\t') for l in open(lists).read().split('\n') if l][:most]
done = set()
if os.path.exists(out):
    for l in open(out): r = json.loads(l); done.add((r['type'], r['variant'], r['options']))
todo = [r for r in rows if tuple(r) not in done]
policy = os.environ.get('POLICY')
images = sorted(p.name for p in (lab / 'images').iterdir())
here = pathlib.Path(__file__).parent
while todo:
    part, rest = todo[:700], todo[700:]
    with tempfile.TemporaryDirectory(dir=lab) as w:
        text = ''.join(f'{n}\t' + '\t'.join(r) + '\n' for n, r in enumerate(part)).encode()
        open(f'{w}/lists', 'wb').write(text + b'\0' * (-len(text) % 4096))
        root = f'{w}/root.img'; subprocess.run(['cp', '--sparse=always', lab / f'root-{release}.img', root], check=True)
        subprocess.run(['debugfs', '-w', '-R', f'write {here}/{recorder} record.py', root], check=True, capture_output=True)
        if policy: subprocess.run(['debugfs', '-w', '-R', f'write {policy} policy', root], check=True, capture_output=True)
        drives = [(root, 'raw'), (f'{w}/lists', 'raw')]
        needed = [i for i in images if any(f'{r[0]}-{r[1]}' == i or r[0].startswith('ntfs') and i == 'ntfs3-default' for r in part)]
        names = ','.join(f'{i}:vd{chr(ord("c") + n)}' for n, i in enumerate(needed))
        cmd = ['qemu-system-x86_64', '-accel', 'tcg', '-cpu', 'max', '-m', '1200', '-nographic', '-no-reboot', '-nodefaults', '-monitor', 'none', '-net', 'none',
               '-fsdev', f'local,id=tide,path={w},security_model=none', '-device', 'virtio-9p-pci,fsdev=tide,mount_tag=tide',
               '-kernel', lab / f'vmlinuz-{release}', '-initrd', lab / f'initrd-{release}', '-append', f'console=ttyS0 quiet panic=1{" security=selinux" if policy else ""} DISKS={names}',
               '-serial', f'file:{w}/console', '-serial', f'file:{w}/report']
        for path, form in drives + [(lab / 'images' / i, 'raw') for i in needed]: cmd += ['-drive', f'file={path},format={form},if=virtio,snapshot=on']
        t = time.time()
        try: subprocess.run(cmd, timeout=2400, stdin=subprocess.DEVNULL, env=dict(os.environ, TMPDIR=str(lab)))
        except subprocess.TimeoutExpired: pass
        report = open(f'{w}/report', errors='replace').read().split('\n')
        begin = [l for l in report if l.startswith('BEGIN')]
        if os.environ.get("CONSOLE"): print(open(f"{w}/console", errors="replace").read()[-3000:], *report, sep="\n")
        if not begin: print(open(f'{w}/console', errors='replace').read()[-3000:]); sys.exit("the guest said nothing")
        _, kernel, program, *helpers = begin[0].split()
        got = 0
        for l in report:
            if l.startswith(('N ', 'NOTE ')): print(l.rstrip('\r'))
        with open(out, 'a') as f:
            for l in report:
                if not l.startswith('R '): continue
                try: n, ok, code, opts, sup, words, *log = l[2:].rstrip('\r').split('\t')
                except ValueError: continue
                fstype, variant, options = part[int(n)]; got += 1
                f.write(json.dumps(dict(type=fstype, variant=variant, options=options, kernel=kernel, program=program, accepted=ok == '1', exit=int(code), mount_opts=opts, super_opts=sup, said=words, **(dict(helpers=helpers, log=log[0]) if log else {}))) + '\n')
    print(time.strftime('%H:%M:%S'), release, f'{got} of {len(part)} in {time.time() - t:.0f} s, {len(rest)} left', flush=True)
    # A list that ends the guest is left out, and the others behind it asked again.
    todo = (part[got + 1:] if got < len(part) else []) + rest
