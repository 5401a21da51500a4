"""The disk of record-tiny.py and record-busybox-init.py: six partitions with file systems of known UUIDs, and the tree that root is
made of. Needs e2fsprogs, xfsprogs, btrfs-progs, fdisk, busybox-static, root."""
import json, os, re, shutil, subprocess, tempfile, threading, time
PART = 'a1f0c3d2-5b6e-4c7d-8e9f-00112233440'
HULL, USR, SILO, PRESS = (f'5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a{n}' for n in ('0001', '900a', 'd00d', 'e00e'))
RESERVE = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ac00c'
LOST = '0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad'
PARTS = ((1, 60, 'hull'), (2, 60, 'usr'), (3, 60, 'reserve'), (4, 330, 'silo'), (5, 128, 'press'), (6, 60, 'bare'))

def disk(folder, files):
    """The disk, and the byte at which root begins; `files`: what is written to root, executable."""
    path = f'{folder}/disk'
    subprocess.run(['truncate', '-s', '760M', path], check=True)
    subprocess.run(['sfdisk', '-q', path], input=('label: gpt\n' + ''.join(f'size={size}M, uuid={PART}{n}, name={name}\n' for n, size, name in PARTS)).encode(), check=True)
    starts = {int(p['node'][-1]): p['start'] * 512 for p in json.loads(subprocess.run(['sfdisk', '-J', path], capture_output=True, check=True).stdout)['partitiontable']['partitions']}
    tree = f'{folder}/tree'
    for d in ('sbin', 'bin', 'dev', 'proc', 'sys', 'etc', 'usr', 'srv/usr', 'srv/under', 'srv/grain', 'srv/silo', 'srv/press', 'srv/full', 'srv/twin', 'var/swap', 'run', 'tmp'): os.makedirs(f'{tree}/{d}')
    open(f'{tree}/srv/full/note', 'w').write('keep')
    shutil.copy('/bin/busybox', f'{tree}/bin/busybox')
    for name in ('sh', 'mount', 'poweroff', 'echo', 'cat'): os.symlink('busybox', f'{tree}/bin/{name}')
    for p, text in files.items():
        if os.path.lexists(f'{tree}/{p}'): os.remove(f'{tree}/{p}')
        if text.startswith('->'): os.symlink(text[2:], f'{tree}/{p}')
        else: open(f'{tree}/{p}', 'w').write(text); os.chmod(f'{tree}/{p}', 0o755)
    for name in ('good', 'nosig'):
        subprocess.run(['dd', 'if=/dev/urandom', f'of={tree}/var/swap/{name}', 'bs=1M', 'count=4', 'status=none'], check=True); os.chmod(f'{tree}/var/swap/{name}', 0o600)
    subprocess.run(['mkswap', '-q', f'{tree}/var/swap/good'], check=True)
    make = {1: ['mke2fs', '-q', '-b', '4096', '-t', 'ext4', '-L', 'hull', '-U', HULL, '-d', tree], 2: ['mke2fs', '-q', '-t', 'ext4', '-L', 'usr', '-U', USR], 3: ['mkswap', '-q', '-L', 'reserve', '-U', RESERVE], 4: ['mkfs.xfs', '-q', '-f', '-L', 'silo', '-m', f'uuid={SILO}'], 5: ['mkfs.btrfs', '-q', '-f', '-L', 'press', '-U', PRESS]}
    for n, size, _ in PARTS:
        if n not in make: continue
        part = f'{folder}/p{n}'
        subprocess.run(['truncate', '-s', f'{size}M', part], check=True); subprocess.run(make[n] + [part], check=True, capture_output=True)
        if n in (4, 5):
            os.makedirs(f'{folder}/m', exist_ok=True); subprocess.run(['mount', '-o', 'loop', part, f'{folder}/m'], check=True)
            if n == 5: subprocess.run(['btrfs', 'subvolume', 'create', f'{folder}/m/@'], check=True, capture_output=True)
            for where in (f'{folder}/m', f'{folder}/m/@')[:1 if n == 4 else 2]: subprocess.run(f'cp -a {tree}/. {where}/', shell=True, check=True)
            subprocess.run(['umount', f'{folder}/m'], check=True)
        subprocess.run(['dd', f'if={part}', f'of={path}', 'bs=1M', f'seek={starts[n] // 2**20}', 'conv=notrunc,sparse', 'status=none'], check=True); os.remove(part)
        assert starts[n] % 2**20 == 0
    return path, starts[1]

def put(path, at, files, without=()):
    """Writes files to root as it lies on a copy of the disk, and takes some away."""
    with tempfile.TemporaryDirectory() as folder:
        orders = []
        for n, (name, text) in enumerate(files.items()):
            open(f'{folder}/{n}', 'w', newline='').write(text); orders.append(f'rm {name}\nwrite {folder}/{n} {name}')
        orders += [f'rmdir {name}' for name in without]
        subprocess.run(['debugfs', '-w', '-f', '-', f'{path}?offset={at}'], input='\n'.join(orders).encode(), check=True, capture_output=True)

def start(words, limit):
    """Starts the kernel in user mode: what it printed, each with its second, and whether it had to be ended."""
    lines, began = [], time.time()
    command = ['linux.uml', 'mem=128M', 'con=null', 'con0=fd:0,fd:1', 'panic=0', *(w for w in words if w)]
    p = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, start_new_session=True, env=dict(os.environ, TMPDIR='/dev/shm', HOME='/root'))
    def listen():
        for line in p.stdout: lines.append((round(time.time() - began, 1), re.sub(r'\x1b\[[0-9;?]*[a-zA-Z]', '', line.decode(errors='replace')).strip()))
    ear = threading.Thread(target=listen); ear.start()
    waits = False
    try: p.wait(limit)
    except subprocess.TimeoutExpired:
        waits = True; os.killpg(p.pid, 9); p.wait()
    ear.join(5)
    return '\n'.join(l for _, l in lines), waits, round(time.time() - began, 1)
