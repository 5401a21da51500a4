#!/usr/bin/env python3
"""Records what the two readers of tables make of awkward lines.

The init system reads tables with the C library (getmntent); the mount
program, fsck and swapon read them with libmount. Both libraries of this
machine are asked, one made-up table after the other, and what they return is
written as crates/core/facts/tests/fixtures/readers.jsonl:

    {"table": …, "boot": [[source, target, type, options, dump, pass], …],
     "mount": [… or null for a line it passes over …]}

Text is given as latin-1, so that every byte is one character. Needs glibc and
libmount.so.1; no root.  Usage: record-readers.py > readers.jsonl
"""
import ctypes
import json
import os
import sys
import tempfile

C = ctypes.CDLL("libc.so.6")
M = ctypes.CDLL("libmount.so.1")

GOOD = "LABEL=grain /srv/grain ext4 defaults 0 2"
LINES = [
    # fields
    "", "LABEL=grain", "LABEL=grain /srv/grain", "LABEL=grain /srv/grain ext4",
    "LABEL=grain /srv/grain ext4 noatime", "LABEL=grain /srv/grain ext4 noatime 1", GOOD,
    GOOD + " 7", GOOD + " # tide logs", GOOD + "# tide logs", "LABEL=grain /srv/grain # tide logs",
    "LABEL=grain /srv/grain ext4 # tide", "LABEL=grain /srv/grain ext4 defaults # tide",
    "LABEL=grain /srv/grain ext4 defaults 0 # tide", "LABEL=grain /srv/grain ext4 defaults,noatime#x 0 2",
    "LABEL=grain /srv/grain ext4 defaults, noatime 0 2", "LABEL=grain /srv/grain ext4 defaults ,noatime 0 2",
    "LABEL=grain /srv/grain ext4 defaults,,noatime 0 2", "LABEL=grain /srv/grain ext4 defaults, 0 2",
    "LABEL=grain /srv/tide log ext4 defaults 0 2", "LABEL=tide log /srv/grain ext4 defaults 0 2",
    "this is not a line", "one two three four five six",
    # blanks
    "   " + GOOD, "\t" + GOOD, GOOD.replace(" ", "\t"), GOOD.replace(" ", " \t "), GOOD + "  ", GOOD + "\t",
    GOOD.replace(" ", "\x0b"), GOOD.replace(" ", "\x0c"), GOOD.replace("ext4 ", "ext4\xc2\xa0"),
    GOOD.replace(" ", "\xc2\xa0"), " ", "\t", "#", " # x", "# LABEL=a /b ext4",
    # line endings
    GOOD + "\r", "LABEL=grain /srv/grain ext4 defaults\r", "LABEL=grain /srv/grain ext4\r",
    "LABEL=grain /srv/grain ext4 defaults 0\r", "LABEL=grain /srv/grain\r", "\r", "# x\r", GOOD + "\r\r",
    GOOD + " \r",
    # numbers
    "LABEL=grain /srv/grain ext4 defaults yes 2", "LABEL=grain /srv/grain ext4 defaults 0 two",
    "LABEL=grain /srv/grain ext4 defaults 0 2x", "LABEL=grain /srv/grain ext4 defaults 0x1 2",
    "LABEL=grain /srv/grain ext4 defaults 0 -1", "LABEL=grain /srv/grain ext4 defaults -1 2",
    "LABEL=grain /srv/grain ext4 defaults +1 +2", "LABEL=grain /srv/grain ext4 defaults 0 02",
    "LABEL=grain /srv/grain ext4 defaults 0 1.5", "LABEL=grain /srv/grain ext4 defaults 00 0",
    "LABEL=grain /srv/grain ext4 defaults 0 99", "LABEL=grain /srv/grain ext4 defaults 0,2",
    "LABEL=grain /srv/grain ext4 defaults 0 \"2\"",
    # escapes
    "LABEL=grain /srv/tide\\040log ext4 defaults 0 2", "LABEL=grain /srv/tide\\011log ext4 defaults 0 2",
    "LABEL=grain /srv/tide\\012log ext4 defaults 0 2", "LABEL=grain /srv/tide\\134log ext4 defaults 0 2",
    "LABEL=grain /srv/tide\\043log ext4 defaults 0 2", "LABEL=grain /srv/gr\\141in ext4 defaults 0 2",
    "LABEL=grain /srv/tide\\\\log ext4 defaults 0 2", "LABEL=grain /srv/tide\\ log ext4 defaults 0 2",
    "LABEL=grain /srv/tide\\x20log ext4 defaults 0 2", "LABEL=grain /srv/tide\\04 ext4 defaults 0 2",
    "LABEL=grain /srv/tide\\400 ext4 defaults 0 2", "LABEL=grain /srv/tide\\000 ext4 defaults 0 2",
    "LABEL=grain /srv/tide\\ ext4 defaults 0 2", "LABEL=grain /srv/grain ext4 a\\040b 0 2",
    "LABEL=grain /srv/grain ext4 a\\054b 0 2", "LABEL=grain /srv/grain ext4 a\\134040b 0 2",
    "LABEL=tide\\040log /srv/grain ext4 defaults 0 2",
    # quotes
    "LABEL=\"grain\" /srv/grain ext4 defaults 0 2", "LABEL='grain' /srv/grain ext4 defaults 0 2",
    "LABEL=\"tide log\" /srv/grain ext4 defaults 0 2", "LABEL=grain \"/srv/grain\" ext4 defaults 0 2",
    "LABEL=grain /srv/grain ext4 \"defaults\" 0 2", "LABEL=grain /srv/grain ext4 context=\"a,b\" 0 2",
    "LABEL=grain \"/srv/tide log\" ext4 defaults 0 2",
    # bytes
    "\xef\xbb\xbf" + GOOD, "\xef\xbb\xbf# tides", "LABEL=gr\xe4in /srv/grain ext4 defaults 0 2",
    "LABEL=\xe2\x80\x9cgrain\xe2\x80\x9d /srv/grain ext4 defaults 0 2", GOOD.replace("grain", "gr\x00ain"),
    GOOD + "\x00", "\x00" + GOOD, "# x\x00y", GOOD.replace("/srv", "\x01/srv"),
    "LABEL=grain /srv/grain ext4 " + "x" * 4000 + " 0 2", "LABEL=grain /srv/grain ext4 " + "x" * 4100 + " 0 2",
    "#" + "x" * 5000,
    "#" + "x" * 4090 + "\\040LABEL=y /srv/y ext4 defaults 0 0",
    # targets
    "LABEL=grain srv/grain ext4 defaults 0 2", "LABEL=grain /srv//grain/ ext4 defaults 0 2",
    "LABEL=grain none ext4 defaults 0 2", "LABEL=grain swap swap sw 0 0", "/swapfile none swap sw 0 0",
    "uuid=1234-ABCD /srv/grain vfat defaults 0 2",
]
# Each is read alone in the middle of a table, and as its unterminated last line.
AROUND = ("LABEL=first /srv/first ext4 defaults 0 2\n", "\nLABEL=last /srv/last ext4 defaults 0 2\n")


class Mntent(ctypes.Structure):
    _fields_ = [("fsname", ctypes.c_char_p), ("dir", ctypes.c_char_p), ("type", ctypes.c_char_p),
                ("opts", ctypes.c_char_p), ("freq", ctypes.c_int), ("passno", ctypes.c_int)]


def text(value):
    return None if value is None else value.decode("latin-1")


def boot(path):
    C.setmntent.restype = ctypes.c_void_p
    C.getmntent.restype = ctypes.POINTER(Mntent)
    C.getmntent.argtypes = C.endmntent.argtypes = [ctypes.c_void_p]
    stream, found = C.setmntent(path, b"r"), []
    while entry := C.getmntent(stream):
        e = entry.contents
        found.append([text(e.fsname), text(e.dir), text(e.type), text(e.opts), e.freq, e.passno])
    C.endmntent(stream)
    return found


HANDLER = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.c_void_p, ctypes.c_char_p, ctypes.c_int)


def mount(path):
    for name in ("mnt_new_table", "mnt_new_iter"):
        getattr(M, name).restype = ctypes.c_void_p
    strings = ("source", "target", "fstype", "options")
    for name in strings:
        get = getattr(M, "mnt_fs_get_" + name)
        get.restype, get.argtypes = ctypes.c_char_p, [ctypes.c_void_p]
    for name in ("freq", "passno"):
        getattr(M, "mnt_fs_get_" + name).argtypes = [ctypes.c_void_p]
    M.mnt_table_next_fs.argtypes = [ctypes.c_void_p, ctypes.c_void_p, ctypes.c_void_p]
    M.mnt_table_set_parser_errcb.argtypes = [ctypes.c_void_p, HANDLER]
    M.mnt_table_parse_file.argtypes = [ctypes.c_void_p, ctypes.c_char_p]
    M.mnt_new_iter.argtypes = [ctypes.c_int]
    bad = []

    @HANDLER
    def complain(_table, _file, line):
        bad.append(line)
        return 1  # go on, as the mount program does

    table = M.mnt_new_table()
    M.mnt_table_set_parser_errcb(table, complain)
    M.mnt_table_parse_file(table, path)
    walk, entry, found = M.mnt_new_iter(0), ctypes.c_void_p(), []
    while M.mnt_table_next_fs(table, walk, ctypes.byref(entry)) == 0:
        row = [text(getattr(M, "mnt_fs_get_" + n)(entry)) for n in strings]
        found.append(row + [M.mnt_fs_get_freq(entry), M.mnt_fs_get_passno(entry)])
    return found, bad


def main():
    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "fstab").encode()
        for line in LINES:
            for table in (AROUND[0] + line + AROUND[1], AROUND[0] + line):
                with open(path, "wb") as out:
                    out.write(table.encode("latin-1"))
                by_mount, bad = mount(path)
                row = {"table": table, "boot": boot(path), "mount": by_mount, "refused": bad}
                sys.stdout.write(json.dumps(row) + "\n")


main()
