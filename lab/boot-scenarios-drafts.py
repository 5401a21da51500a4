"""One guest that drafts entries, runs the printed steps, reboots and says what came back. For run-machine.py with a release
whose root disk has the program in /usr/local/bin and the mkfs programs, and empty disks p to y of 400 MB under disks/."""
import pathlib
SCRIPT = pathlib.Path(__file__).with_name('try-drafts-boot.sh').read_text() if '__file__' in globals() else open('lab/try-drafts-boot.sh').read()
UNIT = '[Unit]\nBefore=oracle-ok.service\nAfter=local-fs.target\n[Service]\nType=oneshot\nExecStart=/bin/bash /etc/drafts.sh\n'
SCENARIOS = [dict(id='drafts', fstab='', disks='pqrstuvwxy', limit=1500, reboot=True, files={
    '/etc/drafts.sh': SCRIPT, '/etc/systemd/system/drafts.service': UNIT,
    '/etc/systemd/system/multi-user.target.d/drafts.conf': '[Unit]\nWants=drafts.service\n'})]
MANAGER = pathlib.Path('lab/try-manager.sh').read_text()
SCENARIOS.append(dict(id='manager', fstab='LABEL=grain /srv/grain ext4 noatime 0 2\nLABEL=silo /srv/silo xfs nofail 0 0\n', disks='bcd', files={
    '/etc/drafts.sh': MANAGER, '/etc/systemd/system/drafts.service': UNIT,
    '/etc/systemd/system/multi-user.target.d/drafts.conf': '[Unit]\nWants=drafts.service\n'}))
