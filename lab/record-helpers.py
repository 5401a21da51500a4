#!/usr/bin/env python3
"""Inside the guest of make-option-lab.sh with SERVERS=1, as its first process: serves a directory by NFS, SMB, ssh and 9P to
itself, mounts each list that the second disk names through the programs that do it, and says on the serial port whether
mount took it, how the kernel shows it, and what was said. A line `?TYPE` asks the kernel's own reader about every word that
the module of TYPE holds; types that need a server of another machine are asked of that reader alone. In a root directory it
runs as well, for the programs of FUSE, which need no other kernel, and writes what run-options.py writes: HERE=1 LISTS=.. REPORT=..
[NTFS=IMAGE] unshare -mnpf chroot ROOT python3 record-helpers.py."""
import ctypes, errno, json, os, re, subprocess, time
os.environ['PATH'] = '/usr/local/sbin:/usr/sbin:/usr/bin:/sbin:/bin'
os.environ['HOME'] = '/root'
def sh(*a, **k):
    try: return subprocess.run(a, stdin=subprocess.DEVNULL, capture_output=True, text=True, errors='replace', **k)
    except subprocess.TimeoutExpired: return subprocess.CompletedProcess(a, 124, '', 'no end within the limit')
    except FileNotFoundError: return subprocess.CompletedProcess(a, 127, '', f'no {a[0]} here')
def write(path, text, mode=0o644):
    os.makedirs(os.path.dirname(path), exist_ok=True); open(path, 'w').write(text); os.chmod(path, mode)
for t, at in (('tmpfs', '/run'), ('tmpfs', '/tmp')): sh('mount', '-t', t, t, at)
sh('mount', '-o', 'remount,rw', '/')
out = open(os.environ.get('REPORT', '/dev/ttyS1'), 'w', buffering=1)
os.makedirs('/tmp/at'); os.makedirs('/srv/tide/inner', exist_ok=True)
image, here = os.environ.get('NTFS'), 'HERE' in os.environ
if here:
    # A program that is told to start two thousand million threads does not take the machine with it.
    import resource; resource.setrlimit(resource.RLIMIT_AS, (4 << 30, 4 << 30))
if here: sh('mount', '-t', 'proc', 'proc', '/proc')
cmdline = 'DISKS=:' if here else open('/proc/cmdline').read()
disks = {}
for part in re.search(r'DISKS=(\S*)', cmdline).group(1).split(','):
    name, _, dev = part.partition(':'); disks[name] = '/dev/' + dev
data = open(os.environ.get('LISTS', '/dev/vdb'), 'rb').read().rstrip(b'\0').decode()
lines = [l.split('\t') for l in data.split('\n') if l]
if here: lines = [[str(n), *l] for n, l in enumerate(lines)]
types = {l[1].lstrip('?') for l in lines}
def daemon(*a):
    said = sh(*a, timeout=60)
    if said.returncode: out.write(f'NOTE {a[0]} {said.returncode} {said.stderr.strip()[:150]!r}\n')
sh('ip', 'link', 'set', 'lo', 'up')
for m in ('loop', 'fuse', '9pnet_virtio', '9p'): sh('modprobe', m)
if types & {'nfs', 'nfs4'}:
    write('/etc/exports', '/srv/tide 127.0.0.1(rw,no_root_squash,insecure,no_subtree_check)\n')
    for m in ('nfsd', 'nfs', 'nfsv3', 'nfsv4'): sh('modprobe', m)
    sh('mount', '-t', 'nfsd', 'nfsd', '/proc/fs/nfsd')
    daemon('rpcbind', '-w'); daemon('rpc.statd', '--no-notify'); daemon('exportfs', '-ra'); daemon('rpc.nfsd', '4'); daemon('rpc.mountd')
if types & {'cifs', 'smb3'}:
    os.makedirs('/run/samba', exist_ok=True)
    write('/etc/samba/smb.conf', '[global]\nserver role=standalone\nmap to guest=Bad User\nserver min protocol=NT1\nlog level=0\nunix extensions=yes\n'
          'disable spoolss=yes\nload printers=no\n[tide]\npath=/srv/tide\nguest ok=yes\nread only=no\n')
    sh('modprobe', 'cifs'); subprocess.run(['smbpasswd', '-a', '-s', 'root'], input='ebb\nebb\n', text=True, capture_output=True)
    write('/root/secret', 'username=root\npassword=ebb\n', 0o600); daemon('smbd', '-D')
if types & {'fuse.sshfs'}:
    os.makedirs('/run/sshd', exist_ok=True); os.makedirs('/root/.ssh', mode=0o700, exist_ok=True)
    sh('ssh-keygen', '-A'); sh('ssh-keygen', '-q', '-t', 'ed25519', '-N', '', '-f', '/root/.ssh/id_ed25519')
    write('/root/.ssh/authorized_keys', open('/root/.ssh/id_ed25519.pub').read(), 0o600)
    daemon('/usr/sbin/sshd'); time.sleep(2); write('/root/.ssh/known_hosts', sh('ssh-keyscan', '127.0.0.1').stdout, 0o600)
def shelf():
    import http.server, threading
    class Shelf(http.server.BaseHTTPRequestHandler):
        """As much of WebDAV and of an object store as a mount asks for: one empty directory."""
        def log_message(self, *a): pass
        def tell(self, code, body='', **heads):
            self.send_response(code)
            for k, v in dict(heads, Content_Length=len(body), Content_Type='application/xml').items(): self.send_header(k.replace('_', '-'), str(v))
            self.end_headers(); self.wfile.write(body.encode() if self.command != 'HEAD' else b'')
        def do_OPTIONS(self): self.tell(200, DAV='1,2', Allow='OPTIONS,GET,HEAD,PUT,DELETE,PROPFIND,LOCK,UNLOCK')
        def do_PROPFIND(self):
            self.rfile.read(int(self.headers.get('Content-Length', 0)))
            self.tell(207, '<?xml version="1.0"?><D:multistatus xmlns:D="DAV:"><D:response><D:href>/tide/</D:href><D:propstat><D:prop><D:resourcetype><D:collection/>'
                      '</D:resourcetype></D:prop><D:status>HTTP/1.1 200 OK</D:status></D:propstat></D:response></D:multistatus>')
        def do_GET(self): self.tell(200, '<?xml version="1.0"?><ListBucketResult><Name>tide</Name><IsTruncated>false</IsTruncated></ListBucketResult>')
        do_HEAD = do_GET
    threading.Thread(target=http.server.ThreadingHTTPServer(('127.0.0.1', 8080), Shelf).serve_forever, daemon=True).start()
if types & {'davfs', 'fuse.s3fs'}:
    shelf()
    write('/etc/davfs2/davfs2.conf', 'ask_auth 0\nuse_locks 0\n'); write('/root/own.conf', 'ask_auth 0\n', 0o600)
    write('/etc/passwd-s3fs', 'ebb:flow\n', 0o600)
if types & {'fuse.mergerfs', 'fuse.unionfs', 'fuse.fuse-overlayfs'}:
    for d in 'luw': os.makedirs(f'/tmp/ov/{d}', exist_ok=True)
if 'fuse.gocryptfs' in types:
    os.makedirs('/tmp/sealed', exist_ok=True); write('/root/phrase', 'ebb\n', 0o600)
    daemon('gocryptfs', '-init', '-q', '-passfile', '/root/phrase', '-scryptn', '10', '/tmp/sealed')
if 'rclone' in types and not os.path.exists('/sbin/mount.rclone'): os.symlink('/usr/bin/rclone', '/sbin/mount.rclone')
time.sleep(3)
program = sh('mount', '--version').stdout.split()[3]
helpers = sh('dpkg-query', '-W', '-f', '${Package}=${Version} ', 'nfs-common', 'cifs-utils', 'ntfs-3g', 'sshfs', 'fuse3', 'samba', 'mergerfs', 'gocryptfs', 'davfs2',
             'bindfs', 's3fs', 'unionfs-fuse', 'squashfuse', 'fuse-overlayfs', 'rclone').stdout.split()
if not here: out.write(f'BEGIN {os.uname().release} {program} {" ".join(helpers)}\n')
def shown(at):
    for line in open('/proc/self/mountinfo'):
        f = line.split(' ')
        if f[4] == at:
            dash = f.index('-'); return f[5], f[dash + 2], f[dash + 3].strip() if len(f) > dash + 3 else ''
    return None
def end_programs():
    # One that is late would mount over what is asked next.
    for pid in (p for p in os.listdir('/proc') if p.isdigit() and int(p) > 1 and int(p) != os.getpid()):
        try: name = open(f'/proc/{pid}/comm').read().strip()
        except OSError: continue
        if name.startswith('mount') or f'fuse.{name}' in types or name in types: os.kill(int(pid), 9)
kmsg = os.open('/dev/kmsg', os.O_RDONLY | os.O_NONBLOCK)
def kernel_said():
    said = []
    while True:
        try: said.append(os.read(kmsg, 8192).decode(errors='replace').split(';', 1)[1].split('\n')[0])
        except BlockingIOError: return said
        except OSError as e:
            if e.errno != errno.EPIPE: return said
libc = ctypes.CDLL(None, use_errno=True)
def config(fstype, command, name, value):
    fd = libc.syscall(430, fstype.encode(), 0)
    if fd < 0: return f'-{errno.errorcode[ctypes.get_errno()]}'
    got = libc.syscall(431, fd, command, name.encode(), value, 0)
    code = 'OK' if got == 0 else errno.errorcode[ctypes.get_errno()]
    try: words = os.read(fd, 300).decode(errors='replace').strip()
    except OSError: words = ''
    os.close(fd)
    return f'{code} {words}'.strip()
# Types of which there is no server here: their own reader in the kernel is asked, word by word.
READERS = ('ceph', 'virtiofs', 'bcachefs')
loaded = set()
def read_by_kernel(fstype, options):
    if fstype not in loaded: loaded.add(fstype); sh('modprobe', fstype)
    fd = libc.syscall(430, fstype.encode(), 0)
    if fd < 0: return 32, f'no such type: {errno.errorcode[ctypes.get_errno()]}'
    try:
        for option in options.split(','):
            name, eq, value = option.partition('=')
            if libc.syscall(431, fd, 1 if eq else 0, name.encode(), value.encode() if eq else None, 0):
                code = errno.errorcode[ctypes.get_errno()]
                try: words = os.read(fd, 300).decode(errors='replace').strip()
                except OSError: words = ''
                return 1, f'{code} {option}: {words}'
        return 0, ''
    finally: os.close(fd)
def ask_names(number, fstype):
    import lzma
    module = {'nfs4': 'nfs'}.get(fstype, fstype); words = set()
    for path in sh('find', f'/lib/modules/{os.uname().release}', '-name', f'{module}.ko*').stdout.split():
        raw = open(path, 'rb').read(); raw = (lzma.decompress(raw) if path.endswith('.xz') else raw).decode('latin-1')
        words |= set(re.findall(r'(?<![A-Za-z0-9_])[a-z][A-Za-z0-9_.]{1,24}(?![A-Za-z0-9_%:(])', raw))
    sh('modprobe', module); got = 0
    for word in sorted(words):
        flag, text = config(fstype, 0, word, None), config(fstype, 1, word, b'1')
        if 'nknown' in flag and 'nknown' in text: continue
        got += 1; out.write(f'N {number}\t{fstype}\t{word}\t{flag}\t{text}\n'.replace('\r', ' '))
    out.write(f'R {number}\t1\t0\t\t\t\t{got} of {len(words)} words\n')
SOURCES = {'nfs': '127.0.0.1:/srv/tide', 'nfs4': '127.0.0.1:/srv/tide', 'cifs': '//127.0.0.1/tide', 'smb3': '//127.0.0.1/tide',
           'fuse.sshfs': 'root@127.0.0.1:/srv/tide', '9p': 'tide', 'davfs': 'http://127.0.0.1:8080/tide', 'fuse.s3fs': 'tide', 'fuse.mergerfs': '/tmp/ov/l:/tmp/ov/u',
           'fuse.unionfs': '/tmp/ov/u=RW:/tmp/ov/l=RO', 'fuse.fuse-overlayfs': 'overlay', 'fuse.gocryptfs': '/tmp/sealed', 'fuse.bindfs': '/srv/tide', 'fuse.squashfuse': '/root/tide.squashfs',
           'rclone': ':local:/srv/tide'}
BASE = {'cifs': 'credentials=/root/secret,', 'smb3': 'credentials=/root/secret,', '9p': 'trans=virtio,', 'fuse.s3fs': 'url=http://127.0.0.1:8080,use_path_request_style,',
        'fuse.gocryptfs': 'passfile=/root/phrase,', 'fuse.fuse-overlayfs': 'lowerdir=/tmp/ov/l,upperdir=/tmp/ov/u,workdir=/tmp/ov/w,'}
OWN = {'cifs': ('cred', 'user', 'guest', 'pass', 'no_base'), '9p': ('trans',), 'fuse.s3fs': ('url=', 'no_base'), 'fuse.gocryptfs': ('passfile', 'extpass', 'masterkey', 'zerokey'), 'fuse.fuse-overlayfs': ('lowerdir',)}
loop = ''
for line in lines:
    number, fstype, variant, options = line
    if fstype.startswith('?'): ask_names(number, fstype[1:]); continue
    if fstype in READERS:
        code, words = read_by_kernel(fstype, options)
        out.write(f'R {number}\t{int(not code)}\t{code}\t\t\t{words}\t\n'.replace('\r', ' ')); continue
    source = SOURCES.get(fstype) or disks.get('ntfs3-default')
    if here and not SOURCES.get(fstype):
        # Options about loop devices take the one that stands here with them.
        if not loop or not os.path.exists(f'/sys/block/{loop[5:]}/loop/backing_file'): loop = sh('losetup', '-f', '--show', image).stdout.strip()
        source = loop
    base = '' if any(w in options for w in OWN.get(fstype.replace('smb3', 'cifs'), ())) else BASE.get(fstype, '')
    kernel_said()
    said = sh('mount', '-t', fstype, '-o', base + options, source, '/tmp/at', timeout=9)
    how = shown('/tmp/at')
    # What a late mount.davfs mounted is not the answer of another program.
    if how and how[1].startswith('http://') and fstype != 'davfs': how = None
    ok = said.returncode == 0 and how is not None
    words = ' | '.join(l.strip() for l in (said.stderr + '\n' + said.stdout).split('\n') if l.strip() and 'dmesg(1)' not in l and 'manual page' not in l)
    kernel = ' | '.join(l for l in kernel_said() if 'CIFS: ' in l or 'nfs' in l.lower() or '9p' in l or 'fuse' in l)
    n = 0
    while shown('/tmp/at') and n < 5:
        n += 1
        if sh('umount', '/tmp/at', timeout=9).returncode: sh('umount', '-l', '/tmp/at', timeout=9)
    if here and said.returncode == 124: end_programs()
    try:
        while os.waitpid(-1, os.WNOHANG)[0]: pass
    except ChildProcessError: pass
    tidy = lambda t: t.replace('\t', ' ')[:240]
    if here:
        out.write(json.dumps(dict(type=fstype, variant=variant, options=options, kernel=os.uname().release, program=program, accepted=ok, exit=said.returncode,
                                  mount_opts=how[0] if how else '', super_opts=how[2] if how else '', said=tidy(words), helpers=helpers, log=tidy(kernel))) + '\n')
        continue
    out.write(f'R {number}\t{int(ok)}\t{said.returncode}\t{how[0] if how else ""}\t{how[2] if how else ""}\t{tidy(words)}\t{tidy(kernel)}\n')
if here: raise SystemExit
out.write('END\n'); out.flush(); os.sync()
libc.reboot(0x4321fedc)
