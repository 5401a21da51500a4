#!/usr/bin/env python3
"""Holds what `bradawl hindsight` says of recorded boots against what the recorder wrote down: how the boot ended, what became
of each entry, how long each device was waited for. The guest's report has to hold its record (with-program.sh).
usage: lab/check-hindsight.py PROGRAM RAW.jsonl..."""
import json, re, subprocess, sys
program, raws = sys.argv[1], sys.argv[2:]
boots = right = entries = alike = waits = near = agreed = 0
for raw in raws:
    for line in open(raw):
        case = json.loads(line); result = case['result']
        if 'record' not in result or result['why'] not in ('multi-user', 'emergency', 'rescue'): continue
        said = json.loads(subprocess.run([program, 'hindsight', '-', '--format', 'json'], input=json.dumps(result['record']), capture_output=True, text=True).stdout)
        boots += 1
        expected = {'multi-user': 'login'}.get(result['why'], result['why'])
        wrong = [] if said['ended'] == expected else [f'ended {said["ended"]}, recorded {expected}']
        there = {m.split()[1].replace('\\040', ' ') for m in result['mounted']}
        swaps = {s.split()[0] for s in result['swapped']}
        for entry in said['entries']:
            if entry['unit'] is None: continue
            state = result['units'].get(entry['unit'], '')
            swap = entry['unit'].endswith('.swap')
            on = ' active ' in state if swap else entry['target'].rstrip('/') in there or entry['target'] == '/'
            entries += 1
            seen = entry['seen'] in ('mounted', 'active')
            if entry['seen'] == 'on-access': on = seen = True
            alike += seen == on
            if seen != on: wrong.append(f'{entry["target"]}: {entry["seen"]}, recorded {state or on}')
            if entry['seen'] == 'timed-out':
                waits += 1
                # The recorder's own lines: when the job was queued, when it was given up.
                begun = [float(m.group(1)) for m in (re.match(r'\[ *([\d.]+)\].*(Queued start job|Expecting device)', l) for l in result['log'] + result['console']) if m]
                unit = re.escape(entry['source'].split('=')[-1][:8])
                ended = [float(m.group(1)) for m in (re.match(r'\[ *([\d.]+)\].*(Timed out waiting for device|timeout)', l) for l in result['log']) if m]
                took = min(ended) - max(begun) if begun and ended else None
                ok = took is not None and entry['waited_s'] is not None and abs(took - entry['waited_s']) <= 0.3
                near += ok
                if not ok: wrong.append(f'{entry["source"]}: waited {entry["waited_s"]}, recorded {took}')
        right += not wrong
        agreed += said['agreement'] == 'agreed'
        if wrong: print(case['id'], '; '.join(wrong))
print(f'{boots} boots, {right} told as recorded; {entries} entries, {alike} alike; {waits} waits, {near} within 0.3 s; the forecast from the record agreed about {agreed}')
