"""One guest in which the units of contrib/systemd do their work: a table is broken and mended under bradawl-watch.path. For
run-machine.py with an image that has the program (with-program.sh); the units name it as a package would install it."""
import pathlib
units = pathlib.Path('contrib/systemd')
SCRIPT = r'''#!/bin/bash
exec 2>&1 > >(sed 's/^/said /' >/dev/ttyS1)
ln -sf /usr/local/bin/bradawl /usr/bin/bradawl; mkdir -p /srv/lost
systemctl start bradawl-watch.path; sleep 2
echo 'LABEL=nowhere /srv/lost ext4 defaults 0 2' >>/etc/fstab
for n in $(seq 60); do systemctl is-failed -q bradawl-watch.service && break; sleep 1; done
echo "broken: $(systemctl is-failed bradawl-watch.service) $(systemctl show -P ExecMainStatus bradawl-watch.service)"
journalctl -u bradawl-watch.service -o cat --no-pager | head -5
sleep 5; systemctl show -P SubState bradawl-watch.path
sed -i '/nowhere/d' /etc/fstab; grep -c . /etc/fstab
for n in $(seq 30); do [ "$(systemctl show -P Result bradawl-watch.service)" = success ] && break; sleep 1; done
echo "mended: $(systemctl show -P Result bradawl-watch.service) $(systemctl show -P SubState bradawl-watch.path)"
echo '# a remark' >>/etc/fstab
for n in $(seq 30); do [ "$(systemctl show -P Result bradawl-watch.service)" = success ] && break; sleep 1; done
echo "written again: $(systemctl show -P Result bradawl-watch.service)"
journalctl -u bradawl-watch.service -o cat --no-pager | tail -6
'''
UNIT = '[Unit]\nBefore=oracle-ok.service\nAfter=local-fs.target\n[Service]\nType=oneshot\nExecStart=/bin/bash /etc/watch.sh\n'
SCENARIOS = [dict(id='watch', fstab='', disks='bcd', limit=600, files={
    '/etc/watch.sh': SCRIPT, '/etc/systemd/system/watch.service': UNIT,
    **{f'/etc/systemd/system/{u.name}': u.read_text() for u in units.glob('bradawl-watch.*')},
    '/etc/systemd/system/oracle-watchdog.service': '[Service]\nExecStart=/bin/true\n',
    '/etc/systemd/system/multi-user.target.d/watch.conf': '[Unit]\nWants=watch.service\n'})]
