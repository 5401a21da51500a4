#!/bin/bash
# Rehearses with --exact in an emulated guest (boot-scenarios-rehearse.py) on file systems whose journals wait to be
# replayed, and kills it thirty times. The program has to be in the guest's image. usage: LAB=FOLDER lab/try-exact.sh
set -eu
cd "$(dirname "$0")/.."
out=$(mktemp); trap 'rm -f "$out"' EXIT
python3 lab/run-machine.py lab/boot-scenarios-rehearse.py "$out" --release drafts --jobs 1 >&2
python3 - "$out" <<'P'
import json, sys
said = json.loads(open(sys.argv[1]).readline())['result']['said']
print('\n'.join(said))
right = [l for l in said if l.startswith('OK')]
sys.exit(any(l.startswith('WRONG') for l in said) or len(right) != 4)
P
