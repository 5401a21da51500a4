#!/usr/bin/env python3
"""Records what the init system's own generator makes of tables, in several versions.

Each version lies in a folder of its own, as unpacked from Debian's packages
(systemd, libsystemd-shared, and the C library where it is newer than this
machine's). The generator runs in a change of root without marks of a
container, since it passes devices over in one. Its units, links and drop-ins
are written line by line, sorted, without what only the mount program reads:

    {"version": "252", "table": …, "made": ["srv-a.mount Before=local-fs.target", …]}

Tables come from the corpus and the recorded boots, or from a file with one a
line, such as lab/generator-awkward.txt. Needs root.
Usage: record-generators.py ROOTS [TABLES] > generators.jsonl
       ROOTS holds folders 247, 257, …; "host" is this machine's own.
"""
import glob
import json
import os
import pathlib
import shutil
import subprocess
import sys
import tempfile

HERE = pathlib.Path(__file__).resolve().parent.parent
KEYS = ("After", "Before", "Requires", "Wants", "RequiresMountsFor", "WantsMountsFor", "Conflicts", "TimeoutSec",
        "JobRunningTimeoutSec", "TimeoutIdleSec")
UNSEEN = {"<CR>": "\r", "<NUL>": "\0", "<BOM>": "\ufeff", "<NBSP>": "\xa0", "<LONG>": "long" * 1100, "<NOEOL>\n": ""}


def lines_of(path):
    for line in pathlib.Path(path).read_text().splitlines():
        if line and not line.startswith("#"):
            yield line.replace("\\n", "\n").encode() + b"\n"


def tables():
    if len(sys.argv) > 2:
        yield from lines_of(sys.argv[2])
        return
    for path in sorted(glob.glob(f"{HERE}/crates/core/judgement/tests/corpus/*.fstab")):
        text = "".join(l for l in open(path, newline="") if not l.startswith("#= "))
        for word, meant in UNSEEN.items():
            text = text.replace(word, meant)
        yield text.encode().replace(b"<L1>", b"\xe4")
    for path in sorted(glob.glob(f"{HERE}/crates/core/judgement/tests/fixtures/boots-*.jsonl")):
        for line in open(path):
            yield json.loads(line)["table"].encode()
    yield from lines_of(HERE / "lab/generator-lines.txt")


def make_root(folder, own):
    """A root to change into: this machine's folders, and a version's own."""
    root = tempfile.mkdtemp()
    for name in ("bin", "sbin", "lib", "lib64"):
        os.symlink(f"usr/{name}", f"{root}/{name}")
    for name in ("usr", "etc", "proc", "sys", "dev", "version", "work", "run"):
        os.mkdir(f"{root}/{name}")
    for name in ("usr", "etc", "proc", "sys", "dev"):
        subprocess.run(["mount", "--rbind", f"/{name}", f"{root}/{name}"], check=True)
    if folder:
        subprocess.run(["mount", "--bind", folder, f"{root}/version"], check=True)
    return root


def command(folder):
    if not folder:
        return ["/lib/systemd/system-generators/systemd-fstab-generator"], {}
    inside = lambda path: "/version" + path[len(folder):]
    found = glob.glob(f"{folder}/**/systemd-fstab-generator", recursive=True)[0]
    shared = os.path.dirname(glob.glob(f"{folder}/**/libsystemd-shared-*.so", recursive=True)[0])
    loader = glob.glob(f"{folder}/**/ld-linux-x86-64.so.2", recursive=True)
    if loader:
        libs = f"{inside(os.path.dirname(loader[0]))}:{inside(shared)}"
        return [inside(loader[0]), "--library-path", libs, inside(found)], {}
    return [inside(found)], {"LD_LIBRARY_PATH": inside(shared)}


def run(root, argv, extra, table):
    work = f"{root}/work"
    shutil.rmtree(work)
    for name in ("a", "b", "c"):
        os.makedirs(f"{work}/{name}")
    pathlib.Path(f"{work}/fstab").write_bytes(table)
    env = {"PATH": "/usr/sbin:/usr/bin", "SYSTEMD_FSTAB": "/work/fstab", "SYSTEMD_LOG_TARGET": "console", **extra}
    subprocess.run(["chroot", root, *argv, "/work/a", "/work/b", "/work/c"], env=env, capture_output=True)
    made = []
    for folder, _, files in os.walk(f"{work}/a"):
        for name in files:
            path = f"{folder}/{name}"
            unit = os.path.relpath(path, f"{work}/a")
            if os.path.islink(path):
                made.append(f"link {unit}")
            elif not unit.startswith("systemd-"):
                lines = open(path, errors="replace").read().splitlines()
                made.extend(f"{unit} {l}" for l in lines if l.split("=")[0] in KEYS)
    return sorted(made)


def main():
    subprocess.run(["mount", "--make-rprivate", "/"], check=True)
    for version in sorted(os.listdir(sys.argv[1])) + ["host"]:
        folder = None if version == "host" else os.path.abspath(f"{sys.argv[1]}/{version}")
        root = make_root(folder, version)
        name = version
        if version == "host":
            name = subprocess.run(["systemctl", "--version"], capture_output=True, text=True).stdout.split()[1]
        argv, extra = command(folder)
        for table in tables():
            made = run(root, argv, extra, table)
            print(json.dumps(dict(version=name, table=table.decode("latin-1"), made=made)))


if __name__ == "__main__":
    if os.environ.get("APART") != "1":
        os.execvpe("unshare", ["unshare", "-m", sys.executable, *sys.argv], dict(os.environ, APART="1"))
    main()
