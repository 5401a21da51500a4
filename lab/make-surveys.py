#!/usr/bin/env python3
"""make-surveys.py: four days of surveys of some hosts of demo/fleet, as demo/surveys/DAY.jsonl, a record a line: a table that
goes wrong, one that goes back and forth, a host that is away for a day."""
import datetime, json, pathlib
fleet, out = pathlib.Path('demo/fleet/hosts.jsonl'), pathlib.Path('demo/surveys')
records = {json.loads(line)['host']['name']: line for line in fleet.read_text().splitlines()}
out.mkdir(exist_ok=True)
hosts = ['gauge-05', 'gauge-06', 'gauge-07', 'model-03', 'wave-01', 'wave-02']
def record(name): return json.loads(records[name])
def edited(r, a, b):
    text = r['tables'][0]['text']; assert a in text, (r['host']['name'], a)
    r['tables'][0]['text'] = text.replace(a, b)
for n in range(4):
    day = datetime.datetime(2026, 11, 20 + n, 2, 0, tzinfo=datetime.timezone.utc)
    lines = []
    for name in hosts:
        if name == 'wave-02' and n == 2: continue
        r = record(name); r['host']['taken_at_s'] = int(day.timestamp())
        if name == 'gauge-06' and n < 2: edited(r, '2GG', '2G')
        if name == 'gauge-07' and n % 2 == 0: edited(r, ' ext4    defaults,data=writeback', ' xfs     defaults')
        lines.append(json.dumps(r, separators=(',', ':')))
    (out / f'{day.date()}.jsonl').write_text('\n'.join(lines) + '\n')
