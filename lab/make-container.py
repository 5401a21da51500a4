#!/usr/bin/env python3
"""make-container.py OUT.img IMAGE PASSPHRASE UUID: a LUKS2 container that holds this image, made without a kernel that can
map it: cryptsetup writes the header for a volume key given to it, and the sectors are encrypted here (aes-xts-plain64)."""
import os, re, subprocess, sys, tempfile
from cryptography.hazmat.primitives.ciphers import Cipher, algorithms, modes
out, image, passphrase, uuid = sys.argv[1:]
key = os.urandom(64)
content = open(image, 'rb').read()
with tempfile.NamedTemporaryFile() as k:
    k.write(key); k.flush()
    with open(out, 'wb') as f: f.truncate(len(content) + (16 << 20))
    subprocess.run(['cryptsetup', 'luksFormat', '-q', '--type', 'luks2', '--pbkdf', 'pbkdf2', '--pbkdf-force-iterations', '1000',
        '--cipher', 'aes-xts-plain64', '--key-size', '512', '--sector-size', '512', '--uuid', uuid, '--volume-key-file', k.name, out, '-'],
        input=passphrase.encode(), check=True)
start = int(re.search(r'offset: (\d+) \[bytes\]', subprocess.run(['cryptsetup', 'luksDump', out], capture_output=True, text=True, check=True).stdout).group(1))
with open(out, 'r+b') as f:
    f.truncate(start + len(content)); f.seek(start)
    for n in range(0, len(content), 512):
        e = Cipher(algorithms.AES(key), modes.XTS((n // 512).to_bytes(16, 'little'))).encryptor()
        f.write(e.update(content[n:n + 512]) + e.finalize())
