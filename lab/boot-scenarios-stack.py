"""Root on LVM on LUKS on a mirror, started by dracut (make-stack.sh): what becomes of it when a disk is lost, when a word of
the command line is wrong, when nobody types the passphrase. The first disk is empty; the mirror's halves are r0 and r1. Those
whose `ask` is true are for the kind stack-ask, the others for stack."""
SCENARIOS = []
UUID = '5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a5d0'
ROOT = f'UUID={UUID}2 / ext4 errors=remount-ro 0 1\n'
SWAP = f'UUID={UUID}3 none swap sw 0 0\n'
LV, LUKS, MD = 'rd.lvm.lv=tide/root', f'rd.luks.uuid={UUID}1', 'rd.md.uuid=5d0c1f0e:6a354b1c:9a550f6f:1f1a5d00'
W = f'{LV} {LUKS} {MD}'
def s(id, cmdline=W, fstab=SWAP, disks=('r0', 'r1'), root=f'UUID={UUID}2', ask=False, limit=330):
    # Half a minute of rounds tells as much as three: rd.retry= was recorded by itself.
    cmdline += '' if 'rd.retry' in cmdline else ' rd.retry=30'
    SCENARIOS.append(dict(id=id, fstab=ROOT + fstab, root_line=False, disks=list(disks), root=root, cmdline=cmdline, ask=ask, limit=limit))
s('stack-words')
s('stack-no-words', '')
s('stack-auto', 'rd.auto=1')
s('stack-auto-bare', 'rd.auto')
s('stack-half', disks=['r0'])
s('stack-half-auto', 'rd.auto', disks=['r1'])
s('stack-half-auto-long', 'rd.auto rd.retry=180', disks=['r1'], limit=600)
s('stack-none', disks=[])
s('stack-no-lv-word', f'{LUKS} {MD}')
s('stack-no-luks-word', f'{LV} {MD}')
s('stack-no-md-word', f'{LV} {LUKS}')
s('stack-vg-word', f'rd.lvm.vg=tide {LUKS} {MD}')
s('stack-wrong-lv', f'rd.lvm.lv=tide/rot {LUKS} {MD}')
s('stack-wrong-lv-too', f'{W} rd.lvm.lv=tide/none')
s('stack-wrong-vg', f'rd.lvm.vg=tied {LUKS} {MD}')
s('stack-wrong-luks', f'{LV} rd.luks.uuid={UUID}f {MD}')
s('stack-wrong-md', f'{LV} {LUKS} rd.md.uuid=5d0c1f0e:6a354b1c:9a550f6f:1f1a5dff')
s('stack-no-luks', f'{W} rd.luks=0')
s('stack-no-lvm', f'{W} rd.lvm=0')
s('stack-no-md', f'{W} rd.md=0')
s('stack-luks-no', f'{W} luks=no')
s('stack-wrong-root', root=f'UUID={UUID}9')
s('stack-root-mapper', root='/dev/mapper/tide-root')
s('stack-root-mapper-wrong', root='/dev/mapper/tide-rot')
s('stack-swap-lost', fstab=f'UUID={UUID}8 none swap sw 0 0\n')
s('stack-swap-lost-nofail', fstab=f'UUID={UUID}8 none swap nofail 0 0\n')
s('stack-timeout', f'{W} rd.timeout=20', root=f'UUID={UUID}9')
s('stack-ask', ask=True)
s('stack-ask-timeout', f'{W} rd.luks.options=timeout=20s', ask=True)
s('stack-ask-rd-timeout', f'{W} rd.timeout=25', ask=True)
s('stack-ask-half', disks=['r0'], ask=True)
