"""Scenarios for conditions and assertions in drop-ins of mount and swap units: which hold, which do not, and what comes of
units that wait for one that is passed over. The disks are those of the common boot lab; nested below /srv/grain lies
/srv/grain/inner."""
E = '/etc/systemd/system'
GRAIN, SWAP, SILO = 'LABEL=grain /srv/grain ext4', 'LABEL=reserve none swap sw 0 0\n', 'LABEL=silo /srv/silo xfs defaults 0 0\n'
SCENARIOS = []
def s(id, lines, fstab=None, unit='srv-grain.mount', **kw):
    text = '[Unit]\n' + ''.join(line + '\n' for line in lines)
    files = {f'{E}/{unit}.d/own.conf': text, **kw.pop('files', {})}
    SCENARIOS.append(dict(id='cond-' + id, fstab=fstab or f'{GRAIN} defaults 0 2\n{SILO}', disks=kw.pop('disks', 'bcd'), files=files, **kw))
s('exists', ['ConditionPathExists=/etc/fstab'])
s('not-exists', ['ConditionPathExists=!/etc/fstab'])
s('absent-negated', ['ConditionPathExists=!/none'])
s('two-one-fails', ['ConditionPathExists=/etc/fstab', 'ConditionPathExists=/none'])
s('triggers-one-holds', ['ConditionPathExists=|/none', 'ConditionPathExists=|/etc/fstab'])
s('triggers-none-holds', ['ConditionPathExists=|/none', 'ConditionPathExists=|!/etc/fstab'])
s('trigger-and-plain', ['ConditionPathExists=|/etc/fstab', 'ConditionPathExists=/none'])
s('word', ['ConditionKernelCommandLine=tides'], cmdline='tides=high')
s('word-value', ['ConditionKernelCommandLine=tides=low'], cmdline='tides=high')
s('word-absent', ['ConditionKernelCommandLine=!tides'])
s('directory', ['ConditionPathIsDirectory=/etc/fstab'])
s('directory-full', ['ConditionDirectoryNotEmpty=/srv/lost'])
s('file-full', ['ConditionFileNotEmpty=/etc/fstab'])
s('host', ['ConditionHost=elsewhere'])
s('architecture', ['ConditionArchitecture=arm64'])
s('kernel', ['ConditionKernelVersion=>=7'])
s('reset', ['ConditionPathExists=/none', 'ConditionPathExists='])
s('assert', ['AssertPathExists=/none'])
s('assert-nofail', ['AssertPathExists=/none'], fstab=f'{GRAIN} nofail 0 2\n{SILO}')
s('assert-holds', ['AssertPathExists=/etc/fstab'])
s('lost-device', ['ConditionPathExists=/none'], fstab='LABEL=absent /srv/grain ext4 x-systemd.device-timeout=9 0 2\n')
s('inner', ['ConditionPathExists=/none'], fstab=f'{GRAIN} defaults 0 2\ntmpfs /srv/grain/inner tmpfs defaults 0 0\n')
s('inner-assert', ['AssertPathExists=/none'], fstab=f'{GRAIN} nofail 0 2\ntmpfs /srv/grain/inner tmpfs nofail 0 0\n')
s('swap', ['ConditionPathExists=/none'], fstab=SWAP, unit='dev-disk-by\\x2dlabel-reserve.swap')
s('swap-assert', ['AssertPathExists=/none'], fstab=SWAP, unit='dev-disk-by\\x2dlabel-reserve.swap')
s('cracked', ['ConditionPathExists=/none'], fstab='LABEL=cracked /srv/grain ext4 defaults 0 2\n', disks='bcdefghij')
