#!/bin/bash
# Runs what docs/ shows with sudo, as root in an emulated guest (boot-scenarios-docs.py), and fails for each command that
# ends as a usage error. usage: LAB=FOLDER lab/try-docs.sh
set -eu
cd "$(dirname "$0")/.."
out=$(mktemp); trap 'rm -f "$out"' EXIT
python3 lab/run-machine.py lab/boot-scenarios-docs.py "$out" --release drafts --jobs 1 >&2
python3 - "$out" <<'P'
import json, re, sys
said = json.loads(open(sys.argv[1]).readline())['result']['said']
ran = [l for l in said if re.match(r'\d+ bradawl ', l)]
wrong = [l for l in ran if l.split()[0] not in '013']
print('\n'.join(said if wrong else [f'{len(ran)} commands of the documentation ran as root']))
sys.exit(bool(wrong) or not ran)
P
