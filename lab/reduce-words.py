#!/usr/bin/env python3
"""Adds the command line, and how a boot without a report ended, to reduced boots.
Usage: reduce-words.py RAW.jsonl REDUCED.jsonl > boots-words.jsonl

rescue: a shell for one person; off: switched off; initramfs: a shell there that was asked for; no-root; shell: no init
system at all; never: it waits without end; halfway: the goal was reached and nobody could log in."""
import json
import re
import sys

# The guest's initramfs mounts root read-only again after it has put the table in place, whatever the line says.
NOT_OF_THE_LINE = {"word-rw-no-entry"}
raw = {full["id"]: full for full in map(json.loads, open(sys.argv[1]))}
for boot in map(json.loads, open(sys.argv[2])):
    if boot["id"] in NOT_OF_THE_LINE:
        continue
    full = raw[boot["id"]]
    result, said = full["result"], " ".join(full["result"]["console"])
    boot["cmdline"] = full.get("cmdline", "")
    if "rescue.service" in said:
        boot["outcome"] = "rescue"
    elif result["why"] is None:
        asked = "initramfs" if "Spawning shell" in said else "no-root" if re.search("Gave up|Failed to mount", said) else None
        stays = "shell" if "init=" in full.get("cmdline", "") else "halfway" if "systemd.unit=" in full.get("cmdline", "") else "never"
        boot["outcome"] = asked or (stays if result["timed_out"] else "off")
    print(json.dumps(boot, ensure_ascii=False))
