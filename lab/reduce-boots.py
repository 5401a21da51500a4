#!/usr/bin/env python3
"""Reduces full records of boots to what the tests compare.  Usage: reduce-boots.py FULL.jsonl > boots-VERSION.jsonl

Times are seconds after the init system began its jobs; `mounting_s` is how long the mount of each failed unit was tried."""
import json
import re
import sys


def mounting(log):
    """Seconds from the start of a mount to its failure, by unit."""
    began, took = {}, {}
    for line in log:
        if found := re.match(r"\[ *([\d.]+)\].* Mounting (\S+\.mount)", line):
            began[found[2]] = float(found[1])
        elif (found := re.match(r"\[ *([\d.]+)\].* (\S+\.mount): Failed with result", line)) and found[2] in began:
            took[found[2]] = round(float(found[1]) - began[found[2]], 1)
    return took


for line in open(sys.argv[1]):
    full = json.loads(line)
    at = lambda name: (full["targets"].get(name) or {}).get("after_s")
    print(json.dumps(dict(
        id=full["id"], init=full["init"], table=full["table"], devices=full["devices"], files=full["files"],
        root=full["cmdline_root"], outcome=full["outcome"], waits=[w["waited_s"] for w in full["waits"]],
        login_s=at("multi-user.target"), emergency_s=at("emergency.target"), units=full["units"],
        mounted=full["mounted"], mounting_s=mounting(full["log"]), local_fs=(full["targets"].get("local-fs.target") or {}).get("state") == "active"),
        ensure_ascii=False))
