"""One guest that runs every command that the pages of docs/ show with sudo, as root, on a host made for them, and says how
each ended. For run-machine.py with the release of boot-scenarios-drafts.py, a sparse disk 8 of 8 GiB and z of 4000 GiB.
A status of 2 (a usage error, a file that is not there) is a page that is wrong; lab/try-docs.sh reads the answer."""
import pathlib, re
pages = sorted(pathlib.Path('docs').rglob('*.md')) + [pathlib.Path('README.md')]
commands = []
for page in pages:
    if page.name == 'commands.md': continue
    for line in re.findall(r'^ *(?:sudo )?(bradawl (?:adopt .*--write|mend --choose)|(?<=sudo )bradawl .*?)(?: +#.*)?$', page.read_text(), re.M):
        if line not in commands: commands.append(line)
SCRIPT = r'''#!/bin/bash
exec 2>&1 > >(sed 's/^/said /' >/dev/ttyS1)
mkfs.xfs -q -f -L tides /dev/vdc; mkfs.vfat -i 4B1D7E20 /dev/vdd >/dev/null; mkswap /dev/vde >/dev/null
mkfs.ext4 -q -L series /dev/vdf; mkfs.ext4 -q -L root2 /dev/vdg; udevadm settle
mkdir -p /srv/tides /srv/series /srv/new /mnt; mount /dev/vdg /mnt; mkdir -p /mnt/etc /mnt/srv/tides
mount /dev/vdc /mnt/srv/tides; useradd -M survey; mount LABEL=series /srv/series
cp /etc/fstab /root/short
cat >>/etc/fstab <<T
LABEL=tides /srv/tides xfs noatime 0 0
# the series of the gauges
LABEL=series /srv/series ext4 noatme,nofail 0 2
T
printf 'LABEL=root2 / ext4 defaults 0 1\nLABEL=tides /srv/tides ext4 defaults 0 2\n' >/mnt/etc/fstab
cd /root; cp /etc/fstab fstab.new; cp fstab.new new; printf '# a\n# b\ntmpfs /tmp tmpfs size=8M 0 0\n' >>new
for name in yesterday quayside kelp; do bradawl survey -q -o $name.json; done
cp /etc/fstab whole
while read -r command; do
    # Each command meets the host as it was, but for what it takes back.
    case $command in *--undo*) ;; *adopt*) : >/mnt/etc/fstab ;; *' draft '*) cat short >/etc/fstab ;; *) cat whole >/etc/fstab ;; esac
    swapoff /swapfile 2>/dev/null; case $command in *swapfile*) rm -f /swapfile ;; *'survey -o'*) rm -f quayside.json kelp.json ;; esac
    case $command in
        # An editor wants a terminal.
        *' edit'*) EDITOR=true script -qec "$command" /dev/null >/root/answer 2>&1 </dev/null; status=$? ;;
        *) bash -c "${command/8G/64M}" >/root/answer 2>&1 </dev/null; status=$? ;;
    esac
    echo "$status $command"
    case $status in 0|1|3) ;; *) sed 's/^/    /' /root/answer | tail -4 ;; esac
done <<'COMMANDS'
%s
COMMANDS
'''
UNIT = '[Unit]\nBefore=oracle-ok.service\nAfter=local-fs.target\n[Service]\nType=oneshot\nExecStart=/bin/bash /etc/docs.sh\n'
SCENARIOS = [dict(id='docs', fstab='', disks='bpqr8tz', limit=1500, files={
    '/etc/docs.sh': SCRIPT % '\n'.join(commands), '/etc/systemd/system/docs.service': UNIT,
    '/etc/systemd/system/multi-user.target.d/docs.conf': '[Unit]\nWants=docs.service\n'})]
