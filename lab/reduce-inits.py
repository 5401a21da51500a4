#!/usr/bin/env python3
"""Raw boots of other inits and initramfs makers (run-machine.py with boot-scenarios-inits.py and boot-scenarios-dracut.py) as
fixtures. Left out: boots of a machine that was too slow for a limit it was given, and those that were cut off.
usage: reduce-inits.py RAW.jsonl... > FIXTURE.jsonl"""
import json, re, sys
U = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a'
DISKS = dict(b='ext4 label "grain" UUID …b00b', c='swap label "reserve" UUID …c00c', d='xfs label "silo" UUID …d00d', e='btrfs label "press room" UUID …e00e',
    f='FAT label EFISYS serial 4B1D-7E20', g='ext4 label "twin" UUID …9009', h='ext4 label "twin" UUID …9009 (a clone of g)', i='all zeros',
    j='ext4 label "cracked" UUID …100a, error state, root inode cleared: its automatic check gives up', u='ext4 label "usr" UUID …900a',
    n='LVM physical volume TiDe01-aaaa-bbbb-cccc-dddd-eeee-ffff00, volume group hold-a, logical volume cargo-main: ext4 label "cargo" UUID …400a')
INIT = dict(openrc='openrc 0.45', sysv='sysvinit 3.06', finit='finit 4.2', runit='runit 2.1', dracut='systemd 252')
INIT['dracut-plain'] = INIT['bbbookworm'] = INIT['stack'] = INIT['stack-ask'] = 'systemd 252'
DISKS.update(usr=DISKS['u'], r0='half of the mirror "hull"', r1='half of the mirror "hull"')
# What the fixture calls the guest; "dracut" in it: what a shell says is dracut's.
MAKER = {'bbbookworm': 'busybox', 'stack': 'dracut-stack', 'stack-ask': 'dracut-stack-ask', 'dracut': 'dracut', 'dracut-plain': 'dracut-plain'}
# A mount of the network in a guest without one; links that nobody may follow, the init system's own among them.
LEFT_OUT = ['bb-usr-nfs', 'bb-usr-nosymfollow']
for raw in sys.argv[1:]:
    for line in open(raw):
        case = json.loads(line)
        result, said = case['result'], ' '.join(case['result']['console'])
        maker = MAKER.get(case['release'])
        dracut = (maker or '').startswith('dracut')
        if case['id'] in LEFT_OUT: continue
        # The table had not been put in place: nothing was made of it.
        made = any('-.mount' in l or 'srv-' in l for l in result['links']) or any('srv-' in u for u in result['units'])
        if maker == 'dracut-plain' and '/srv' in case['fstab'] and result['why'] and not made: continue
        slow = re.search(r'Timed out waiting for device \S*c1f0e-6a35-4b1c-9a55-0f6f1f1a0001', said)
        if slow and not case.get('root'): continue
        stops = 'aintenance' in said or (result.get('shell') or '').startswith(('Press Enter', '(or press', 'Control-D'))
        if result['why'] == 'multi-user': outcome = 'login'
        elif result['why'] == 'emergency': outcome = 'emergency'
        elif maker == 'busybox' and (result.get('shell') or '').startswith('(initramfs)'): outcome = 'no-root'
        elif dracut and (stops or 'Entering emergency mode' in said or 'Emergency Shell' in said or 'Dropping you to a shell' in said or 'Could not boot' in said or (result.get('shell') or '').startswith(('Halting', 'Dropping to debug shell', 'Kernel panic'))): outcome = 'no-root'
        elif stops: outcome = 'emergency'
        elif dracut and (case['id'].startswith('resume-lost') or 'ask' in maker and result['timed_out']): outcome = 'never'
        # finit asks for a password on a console that the recorder does not read.
        elif case['release'] == 'finit' and result['timed_out']: outcome = 'emergency'
        else: continue
        devices = {f'/dev/ubd{chr(98 + n)}': DISKS[d] for n, d in enumerate(case['disks'])}
        if 'stack' in case['release'] and case['disks']: devices['/dev/dm-2'] = 'swap UUID …5d03'
        else: devices['/dev/ubda'] = f'the root disk: ext4 label "hull" UUID {U}0001'
        table = case['fstab'] if not case.get('root_line', True) else f'UUID={U}0001 / ext4 errors=remount-ro 0 1\n' + case['fstab']
        ubd = lambda text: text.replace('/dev/vd', '/dev/ubd')
        kept = [m for m in result['mounted'] if ' /srv' in m or ' /usr' in m or ' / ' in m]
        print(json.dumps(dict(id=case['id'], init=INIT[case['release']], maker=maker, table=ubd(table), devices=devices,
                              files=case.get('files', {}), root=ubd(case['root']) if case.get('root') else None, cmdline=case.get('cmdline', ''), outcome=outcome,
                              waits=[], units={}, mounted=[ubd(m) for m in kept], swapped=[ubd(s).split()[0] for s in result['swapped']]), ensure_ascii=False))
