#!/usr/bin/env python3
"""check-images.py FOLDER: what `bradawl devices IMAGE --format json` says of packed images (*.img.zst) against their
manifest.json. Needs zstd and the built program."""
import json, os, subprocess, sys, tempfile
folder = sys.argv[1]
here = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
bradawl = os.path.join(here, 'target/release/bradawl')
KEYS = ['type', 'uuid', 'label', 'version', 'size', 'block_size', 'sub_uuid', 'set_uuid', 'level', 'raid_devices', 'device_number', 'num_devices']

def differences(found, image, expect):
    kind = (found or {}).get('kind')
    if kind != expect['kind']:
        return [] if kind in image.get('accept', []) else [f"kind {kind}, expected {expect['kind']}"]
    out = []
    for key in KEYS:
        if key not in expect or (key == 'uuid' and expect.get('uuid_unchecked')) or kind == 'ambiguous': continue
        lost = (expect.get('truncated') and key == 'version') or (expect.get('damaged') and key == 'size')
        accept = image.get({'type': 'accept_types', 'label': 'accept_labels'}.get(key, ''), [])
        if found.get(key) != expect[key] and not lost and accept != 'any' and found.get(key) not in accept:
            out.append(f'{key} {found.get(key)!r}, expected {expect[key]!r}')
    return out

wrong = 0
images = json.load(open(f'{folder}/manifest.json'))
with tempfile.TemporaryDirectory() as scratch:
    for image in images:
        path = f'{scratch}/disk.img'
        subprocess.run(['zstd', '-d', '-q', '-f', '--sparse', f"{folder}/{image['file']}", '-o', path], check=True)
        answer = json.loads(subprocess.run([bradawl, 'devices', path, '--format', 'json'], check=True, capture_output=True).stdout)
        devices = answer['devices']
        found = differences(devices[0]['content'], image, image['expect'])
        parts = {d['partition']['number']: d for d in devices if d.get('partition')}
        for part in image.get('partitions') or []:
            device = parts.get(part['number'])
            if not device: found.append(f"partition {part['number']} is not there"); continue
            facts = device['partition']
            for key, own in (('start', 'start'), ('partuuid', 'uuid'), ('partlabel', 'label'), ('type', 'type')):
                if facts.get(own) != part.get(key): found.append(f"partition {part['number']}: {key} {facts.get(own)!r}, expected {part.get(key)!r}")
            if device['size'] != part['size']: found.append(f"partition {part['number']}: size")
            if part.get('expect') and not part.get('out_of_range'): found += differences(device['content'], part, part['expect'])
        for line in found: print(f"{image['file']}: {line}")
        wrong += bool(found)
print(f'{len(images) - wrong} of {len(images)} images right')
sys.exit(bool(wrong))
