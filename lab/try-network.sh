#!/bin/bash
# Rehearses network entries against a real server: sshfs to an ssh server on a loopback port; one folder is there, one
# is not. Nothing may be left behind. Needs root, openssh-server, sshfs. usage: lab/try-network.sh PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-network.sh PROGRAM}")
. "$(dirname "$(realpath "$0")")/sshd-hosts.sh"
trap stop_hosts EXIT
serve quayside "Subsystem sftp internal-sftp"
mkdir "$work/share" "$work/there"; echo tide >"$work/share/now"
key="port=$port,IdentityFile=$work/key,StrictHostKeyChecking=no,UserKnownHostsFile=/dev/null"
cat >"$work/table" <<TABLE
root@127.0.0.1:$work/share $work/there fuse.sshfs _netdev,nofail,ro,$key 0 0
root@127.0.0.1:$work/none  $work/there fuse.sshfs _netdev,nofail,$key 0 0
TABLE
before=$(cat /proc/self/mountinfo)
"$program" rehearse --table "$work/table" --format json | grep -c '"skipped"' | grep -qx 2 && echo "without --network: not tried"
"$program" rehearse --network --table "$work/table" --format json >"$work/said"
grep '"result"' "$work/said"; sleep 1
[ "$before" = "$(cat /proc/self/mountinfo)" ] && ! pgrep sshfs && echo "nothing is left behind"
grep -c '"works"\|"refused"' "$work/said" | grep -qx 2
