#!/usr/bin/env python3
"""Reduces full records of boots to what the tests compare.  Usage: reduce-boots.py FULL.jsonl > boots-VERSION.jsonl

Times are seconds after the init system began its jobs."""
import json
import sys

for line in open(sys.argv[1]):
    full = json.loads(line)
    at = lambda name: (full["targets"].get(name) or {}).get("after_s")
    print(json.dumps(dict(
        id=full["id"], init=full["init"], table=full["table"], devices=full["devices"], files=full["files"],
        root=full["cmdline_root"], outcome=full["outcome"], waits=[w["waited_s"] for w in full["waits"]],
        login_s=at("multi-user.target"), emergency_s=at("emergency.target"), units=full["units"],
        mounted=full["mounted"], local_fs=(full["targets"].get("local-fs.target") or {}).get("state") == "active"),
        ensure_ascii=False))
