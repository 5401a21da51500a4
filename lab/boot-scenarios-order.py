"""One guest that runs try-rehearse-order.py: rehearsals of 65 entries against `mount -a`, on the guest's own kernel. For
run-machine.py, with the program in the image (with-program.sh)."""
import pathlib
SCRIPT = '#!/bin/bash\nexec 2>&1 > >(sed "s/^/said /" >/dev/ttyS1)\nmodprobe loop; modprobe overlay; modprobe btrfs; modprobe xfs; modprobe vfat\npython3 /etc/order.py /usr/local/bin/bradawl\n'
UNIT = '[Unit]\nBefore=oracle-ok.service\nAfter=local-fs.target\n[Service]\nType=oneshot\nTimeoutStartSec=infinity\nExecStart=/bin/bash /etc/order.sh\n'
SCENARIOS = [dict(id='order', fstab='', disks='b', limit=1500, files={
    '/etc/systemd/system/oracle-watchdog.service': '[Service]\nExecStart=/bin/true\n',
    '/etc/order.py': pathlib.Path(__file__).with_name('try-rehearse-order.py').read_text(),
    '/etc/order.sh': SCRIPT, '/etc/systemd/system/order.service': UNIT,
    '/etc/systemd/system/multi-user.target.d/order.conf': '[Unit]\nWants=order.service\n'})]
