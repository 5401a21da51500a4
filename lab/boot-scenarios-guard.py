"""One guest in which what `bradawl install` puts in place does its work: a table is broken, the shutdown is held with the
reason, a package's hook judges the boot, the table is mended, and the reboot goes. For run-machine.py with an image that has
the program (with-program.sh) and dbus."""
import pathlib
SCRIPT = r'''#!/bin/bash
exec 2>&1 > >(sed 's/^/said /' >/dev/ttyS1)
B=/usr/local/bin/bradawl
mkdir -p /srv/lost /etc/apt/apt.conf.d
$B install -q; $B install --only hooks -q
rm -f /etc/systemd/system/dbus.s* /etc/systemd/system/systemd-logind.service
systemctl daemon-reload; systemctl start dbus.socket; systemctl start dbus.service systemd-logind.service bradawl-guard.path; sleep 2
echo "bus: $(systemctl is-active dbus.socket dbus.service systemd-logind.service | tr '\n' ' ')"; journalctl -b -u dbus -u systemd-logind -o cat --no-pager | tail -4
echo "begun: $(systemctl is-active bradawl-watch.path bradawl-guard.path bradawl-guard.service | tr '\n' ' ')"
echo 'LABEL=nowhere /srv/lost ext4 defaults 0 2' >>/etc/fstab
for n in $(seq 60); do systemctl is-active -q bradawl-guard.service && break; sleep 1; done
sleep 2
echo "broken: watch $(systemctl show -P Result bradawl-watch.service), guard $(systemctl is-active bradawl-guard.service)"
systemd-inhibit --list --no-pager --no-legend | sed 's/  */ /g'
journalctl -t bradawl -o json --no-pager | sed 's/.*\("MESSAGE" *: *"[^"]*"\).*/\1/; t; d' | tail -1
journalctl -t bradawl --no-pager -o verbose | grep BRADAWL_ | sort -u | sed 's/^ */field /'
cat /run/motd.d/bradawl
# Before 257 root goes over the lock unless it asks to be held (recorded).
[ $(systemctl --version | sed -n 's/^systemd \([0-9]*\).*/\1/p') -lt 257 ] || {
    timeout 20 script -qec 'systemctl reboot' /dev/null </dev/null | tr -d '\r' | sed 's/^/on a terminal: /'
    timeout 20 systemctl reboot 2>&1 | sed 's/^/without one: /'; }
systemctl --check-inhibitors=yes reboot; echo "asked to be held: $?"
mkdir -p /tmp/tide/DEBIAN; printf 'Package: tide\nVersion: 1\nArchitecture: all\nMaintainer: Kelp <kelp@saltmarsh.example>\nDescription: none\n' >/tmp/tide/DEBIAN/control
dpkg-deb -b /tmp/tide /tmp/tide.deb >/dev/null; apt-get install -y -q /tmp/tide.deb 2>&1 | grep 'the boot' | sed 's/^/apt: /'
sed -i '/nowhere/d' /etc/fstab
for n in $(seq 60); do systemctl is-active -q bradawl-guard.service || break; sleep 1; done
echo "mended: watch $(systemctl show -P Result bradawl-watch.service), guard $(systemctl is-active bradawl-guard.service), $(ls /run/motd.d/bradawl 2>&1 | tail -1)"
sleep 8; before=$(journalctl -t bradawl -o cat --no-pager | wc -l); echo "before: audited $before times"; mkdir -p /etc/systemd/system/local-fs.target.d; printf '[Unit]\nRequires=nowhere.mount\n' >/etc/systemd/system/local-fs.target.d/tide.conf
for n in $(seq 40); do [ $(journalctl -t bradawl -o cat --no-pager | wc -l) -gt $before ] && break; sleep 1; done
echo "a drop-in: audited $(journalctl -t bradawl -o cat --no-pager | wc -l) times"; rm -r /etc/systemd/system/local-fs.target.d; sleep 4
$B uninstall -q; systemctl stop bradawl-guard.path bradawl-watch.path; $B uninstall -q
ls /usr/local/lib/systemd /usr/local/lib/bradawl /etc/apt/apt.conf.d/90bradawl 2>&1 | sed 's/^ls: //'
sync; systemctl --check-inhibitors=yes reboot; echo "reboot: $?"; sleep 60
'''
UNIT = '[Unit]\nBefore=oracle-ok.service\nAfter=local-fs.target\n[Service]\nType=oneshot\nTimeoutStartSec=infinity\nExecStart=/bin/bash /etc/guard.sh\n'
# The units as they are here, in the place that comes before those that the program puts down.
OURS = {f'/etc/systemd/system/{name}': pathlib.Path('contrib/systemd', name).read_text().replace('/usr/lib/bradawl', '/usr/local/lib/bradawl')
        for name in ('bradawl-watch.path', 'bradawl-watch.service', 'bradawl-guard.path', 'bradawl-guard.service')}
SCENARIOS = [dict(id='guard', fstab='', disks='bcd', limit=900, files={**OURS,
    '/etc/guard.sh': SCRIPT, '/etc/systemd/system/guard.service': UNIT,
    '/etc/systemd/system/oracle-watchdog.service': '[Service]\nExecStart=/bin/true\n',
    '/etc/systemd/system/multi-user.target.d/guard.conf': '[Unit]\nWants=guard.service\n'})]
