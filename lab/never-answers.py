#!/usr/bin/env python3
"""Mounts a FUSE file system whose server never answers, and holds it until its
standard input ends. What touches it hangs. Needs root.
usage: never-answers.py DIRECTORY [TYPE]"""

import ctypes
import os
import sys

target, fstype = sys.argv[1], sys.argv[2] if len(sys.argv) > 2 else "fuse.never"
libc = ctypes.CDLL(None, use_errno=True)
fd = os.open("/dev/fuse", os.O_RDWR)
options = f"fd={fd},rootmode=40000,user_id=0,group_id=0"
if libc.mount(b"never", target.encode(), fstype.encode(), 0, options.encode()) != 0:
    sys.exit(f"mount: {os.strerror(ctypes.get_errno())}")
print("mounted", flush=True)
sys.stdin.read()
# Aborts what still waits for an answer.
libc.umount2(target.encode(), 2)
os.close(fd)
