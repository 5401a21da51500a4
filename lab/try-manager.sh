#!/bin/bash
# Runs inside the guest of boot-scenarios-drafts.py: what the running manager says of units, asked on the spot and by the
# collecting script; the host's own generator; a table that was changed since the manager read it.
exec 2>&1 > >(sed 's/^/said /' >/dev/ttyS1)
bradawl survey -o /root/here.json
jq -c '.manager | map(select(.name | startswith("srv"))) | .[] | [.name, .active, .what, .options, (.outdated // false)]' /root/here.json
bradawl survey --collector >/root/collect.sh 2>/dev/null && mkdir /root/all && sh /root/collect.sh >/root/all/sounding && bradawl survey --from-collected /root/all -o /root/records >/dev/null
[ "$(jq -cS .manager /root/here.json)" = "$(jq -cS .manager /root/records/sounding.json)" ] && echo "by the script: the same"
bradawl audit --ask-generator always --only generator-differs; echo "generator: status $?"
bradawl audit --only stale-units | tail -3
sleep 2; echo 'LABEL=silo /srv/rev xfs noauto,nofail 0 0' >>/etc/fstab
bradawl audit --only stale-units --verbose | grep -i -A6 stale-units
systemctl daemon-reload; bradawl audit --only stale-units | head -1
sleep 1
