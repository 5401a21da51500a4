"""Boots from a GPT with partitions of the types that systemd-gpt-auto-generator looks for (make-gpt-guest.sh): which of them are
mounted or swapped on although the table has no entry for them."""
SCENARIOS = []
def s(id, fstab='', **k): SCENARIOS.append(dict(id=id, fstab=fstab, disks=['b', 'c'], limit=240, **k))
s('gpt-plain')
s('gpt-off', cmdline='systemd.gpt_auto=0')
s('gpt-off-rd', cmdline='rd.systemd.gpt_auto=0')
s('gpt-swap-entry', 'LABEL=reserve none swap sw 0 0\n')
s('gpt-swap-entry-noauto', 'LABEL=reserve none swap noauto 0 0\n')
s('gpt-own-swap-entry', 'LABEL=auto-swap none swap sw,pri=7 0 0\n')
s('gpt-home-entry', 'LABEL=grain /home ext4 defaults 0 2\n')
s('gpt-home-entry-noauto', 'LABEL=grain /home ext4 noauto 0 2\n')
s('gpt-srv-full', files={'/srv/tide': 'x'})
s('gpt-no-root-entry', root_line=False)
