#!/usr/bin/env python3
"""How time and memory grow with what is judged: made-up records that are hard
on a judge, at n, 2n and 4n; the table of docs/model/performance.md.
usage: lab/measure-growth.py PROGRAM [EARLIER PROGRAM]"""

import json
import os
import subprocess
import sys
import tempfile
import time

LIMIT_S = 60
ROOT = "UUID=00000000-0000-0000-0000-000000000000 / ext4 defaults 0 1\n"


def uuid(n):
    return f"{n:08x}-1111-2222-3333-{n:012x}"


def device(name, number, **more):
    content = {"kind": "filesystem", "type": "ext4", "uuid": uuid(number)} | more.pop("content", {})
    return {"path": f"/dev/{name}", "kind": "disk", "size": 1 << 34, "content": content} | more


def record(lines, devices, **more):
    host = {"name": "quayside", "kernel": "6.1.0", "init": {"kind": "systemd", "version": "252", "running": True}}
    root = device("vda1", 0, content={"uuid": "00000000-0000-0000-0000-000000000000"})
    table = [{"path": "/etc/fstab", "text": ROOT + "".join(lines)}]
    base = {"schema": "bradawl.record/1", "host": host, "tables": table, "devices": [root, *devices], "units": [],
            "command_line": "root=UUID=00000000-0000-0000-0000-000000000000", "links_complete": True}
    return base | more


def plain(n):
    lines = (f"UUID={uuid(i + 1)} /srv/m{i} ext4 nofail 0 2\n" for i in range(n))
    return record(lines, [device(f"vd{i}", i + 1) for i in range(n)])


def requires(n):
    line = "UUID={} /srv/m{} ext4 x-systemd.requires=/srv/m{} 0 2\n"
    return record((line.format(uuid(i + 1), i, (i + 1) % n) for i in range(n)), [device(f"vd{i}", i + 1) for i in range(n)])


def nested(n):
    return record((f"UUID={uuid(i + 1)} {'/d' * (i + 1)} ext4 defaults 0 2\n" for i in range(n)),
                  [device(f"vd{i}", i + 1) for i in range(n)])


def labels(n):
    devices = [device(f"vd{i}", i + 1, content={"label": f"right-lebal-{i:05}"}) for i in range(10 * n)]
    return record((f"LABEL=wrong-label-{i:05} /srv/m{i} ext4 nofail 0 2\n" for i in range(n)), devices)


def equal(n):
    devices = [device(f"vd{i}", i + 1, content={"label": "same"}) for i in range(n)]
    return record((f"LABEL=same /srv/m{i} ext4 nofail 0 2\n" for i in range(n)), devices)


def options(n):
    return record([f"UUID={uuid(1)} /srv/m ext4 {','.join(f'noatme{i}' for i in range(n))} 0 2\n"], [device("vdb", 1)])


def members(n):
    def member(i):
        return device(f"sd{i}", i // 2, content={"kind": "raid-member", "type": "Linux RAID", "level": "raid1"})
    return record((f"UUID={uuid(i)} /srv/m{i} ext4 nofail 0 2\n" for i in range(n)), [member(i) for i in range(n)])


def volumes(n):
    pvs = [device(f"sd{i}", i, content={"kind": "lvm-pv", "type": "LVM2 PV", "uuid": f"pv{i}"}) for i in range(n)]
    pvs[0]["content"]["group"] = {"name": "hold", "uuid": "g", "pv_uuids": [f"pv{i}" for i in range(n)], "volumes": []}
    return record((f"/dev/hold/lv{i} /srv/m{i} ext4 nofail 0 2\n" for i in range(n)), pvs)


def everywhere(n):
    """Devices that all lie on each other."""
    paths = [f"/dev/dm-{i}" for i in range(n)]
    devices = [device(f"dm-{i}", i + 1, kind="mapper", parents=paths, children=paths) for i in range(n)]
    return record((f"UUID={uuid(i + 1)} /srv/m{i} ext4 defaults 0 2\n" for i in range(n)), devices)


CASES = [
    ("entries, all well", plain, 2000, "audit"),
    ("entries that require each other", requires, 1500, "audit"),
    ("entries that require each other", requires, 1500, "mend"),
    ("mounts below each other", nested, 225, "audit"),
    ("mounts below each other", nested, 225, "mend"),
    ("wrong labels, ten times as many devices", labels, 250, "audit"),
    ("wrong labels, ten times as many devices", labels, 250, "mend"),
    ("devices with the same label, as many entries", equal, 1000, "audit"),
    ("unknown options in one entry", options, 250, "audit"),
    ("unknown options in one entry", options, 250, "mend"),
    ("array members named by entries", members, 2000, "audit"),
    ("lost volumes of one group", volumes, 2000, "audit"),
    ("devices that all lie on each other", everywhere, 12, "audit"),
]


def run(command):
    """Seconds, MiB and exit status; None when it takes too long."""
    start = time.time()
    child = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    while True:
        pid, status, used = os.wait4(child.pid, os.WNOHANG)
        if pid:
            return time.time() - start, used.ru_maxrss / 1024, os.waitstatus_to_exitcode(status)
        if time.time() - start > LIMIT_S:
            child.kill()
            os.wait4(child.pid, 0)
            return None
        time.sleep(0.005)


def cell(result):
    if result is None:
        return f"over {LIMIT_S} s"
    seconds, mib, status = result
    return f"{seconds:.2f} s, {mib:.0f} MiB" + ("" if status in (0, 1) else f" (status {status})")


def hosts(program, n, folder):
    """A plain list, its last line none: read whole, then an error."""
    path = os.path.join(folder, "hosts")
    with open(path, "w") as file:
        file.writelines(f"gauge-{i}.saltmarsh.example\n" for i in range(n))
        file.write("a b\n")
    return run([program, "survey", "--hosts", path, "-o", os.path.join(folder, "records")])


def main():
    programs = sys.argv[1:]
    for program in programs:
        print(f"\n{'Now' if program == programs[0] else 'Before'}:\n\n| what | command | n | at n | at 2n | at 4n |\n|---|---|---|---|---|---|")
        with tempfile.TemporaryDirectory() as folder:
            for what, make, n, command in CASES:
                cells = []
                for times in (1, 2, 4):
                    path = os.path.join(folder, "host.json")
                    with open(path, "w") as file:
                        json.dump(make(n * times), file)
                    cells.append(cell(run([program, command, path, "--no-policy"])))
                print(f"| {what} | {command} | {n} | {' | '.join(cells)} |", flush=True)
            cells = [cell(hosts(program, 10_000 * times, folder)).replace(" (status 2)", "") for times in (1, 2, 4)]
            print(f"| a plain list of hosts | survey | 10000 | {' | '.join(cells)} |", flush=True)


main()
