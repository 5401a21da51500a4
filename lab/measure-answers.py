#!/usr/bin/env python3
"""What hosts cost that answer tens of megabytes: a client in place of ssh sends
each answer, and a survey with --limit 10 is timed.
usage: lab/measure-answers.py PROGRAM [EARLIER PROGRAM]"""

import base64
import os
import subprocess
import sys
import tempfile
import time

LIMIT_S = 150
MOST = 60 << 20


def code(text):
    return base64.b64encode(text if isinstance(text, bytes) else text.encode()).decode()


def devices(n):
    names = "".join(f"sd{i}\n" for i in range(n))
    facts = "".join(f"/sys/class/block/sd{i}/size:8192\n/sys/class/block/sd{i}/dev:8:{i}\n" for i in range(n))
    yield f"d /sys/class/block {code(names)}\ns /sys/class/block 41ed 0 0 0 0 0\ng {code(facts)}\n"
    for i in range(n):
        yield f"b /dev/sd{i} 0 {code(bytes(512))}\n"


def file(path, line, n):
    """A file of n lines; 3,000 of them are whole groups of base64."""
    yield f"f {path} "
    for start in range(0, n, 3000):
        yield code("".join(line.format(i) for i in range(start, min(n, start + 3000))))
    yield "\n"


def mounts(n, entries):
    yield from file("/proc/self/mountinfo", "{0:07} 1 0:1 / /srv/m{0:07} rw - nfs4 s:/a rw\n", n)
    yield from file("/etc/fstab", "s:/x /srv/m{0:07}/under nfs4 rw,nofail 0 0\n", entries)


ANSWERS = {
    "60,000 devices": lambda: devices(60_000),
    "paths without end": lambda: (f"s /a/b{i} 41ed 0 0 0 0 0\n" for i in range(10**8)),
    "300,000 mounts, 15,000 entries below them": lambda: mounts(300_000, 15_000),
    "1,900,000 accounts": lambda: file("/etc/passwd", "x:x:1:1:{0:07}:/:/bin/sh\n", 1_900_000),
    "a table of 1,700,000 entries": lambda: file("/etc/fstab", "LABEL={0:07} /srv/a ext4\n", 1_700_000),
}


def write(path, lines):
    with open(path, "w") as file:
        file.write("bradawl-collected 1 base64\n")
        written = 0
        for line in lines:
            file.write(line)
            written += len(line)
            if written > MOST:
                break
        file.write("end\n")


def survey(program, folder):
    command = [program, "survey", "--hosts", f"{folder}/hosts", "--ssh", f"{folder}/client", "--limit", "10",
               "--retries", "0", "--again", "-o", f"{folder}/records"]
    start = time.time()
    child = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    while True:
        pid, _, used = os.wait4(child.pid, os.WNOHANG)
        if pid:
            return f"{time.time() - start:.1f} s, {used.ru_maxrss / 1024:.0f} MiB"
        if time.time() - start > LIMIT_S:
            child.kill()
            _, _, used = os.wait4(child.pid, 0)
            return f"over {LIMIT_S} s, {used.ru_maxrss / 1024:.0f} MiB"
        time.sleep(0.01)


def main():
    programs = sys.argv[1:]
    print("| answer | size | " + " | ".join(["now", "before"][: len(programs)]) + " |\n|---|---|" + "---|" * len(programs))
    with tempfile.TemporaryDirectory() as folder:
        with open(f"{folder}/hosts", "w") as file:
            file.write("kelp\n")
        with open(f"{folder}/client", "w") as file:
            file.write(f"#!/bin/sh\ncat {folder}/answer\nexec sleep {LIMIT_S}\n")
        os.chmod(f"{folder}/client", 0o755)
        for what, lines in ANSWERS.items():
            write(f"{folder}/answer", lines())
            size = os.path.getsize(f"{folder}/answer") >> 20
            cells = [survey(program, folder) for program in programs]
            print(f"| {what} | {size} MiB | {' | '.join(cells)} |", flush=True)


main()
