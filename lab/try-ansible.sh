#!/bin/bash
# Runs the playbook of contrib/ansible with ansible-core (from PyPI) against ssh servers on loopback ports, makes records
# of what it collected, and holds them against the ssh path's. Needs root, openssh-server, python3.
# usage: lab/try-ansible.sh PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-ansible.sh PROGRAM}")
here=$(dirname "$(realpath "$0")")
BASE_PORT=22200
. "$here/sshd-hosts.sh"
trap stop_hosts EXIT
serve gauge-01; serve gauge-02; serve store-01
python3 -m venv "$work/venv" && "$work/venv/bin/pip" -q install ansible-core || exit 1
export ANSIBLE_COLLECTIONS_PATH=$work/collections ANSIBLE_HOME=$work/home
"$work/venv/bin/ansible-galaxy" collection install "$here/../contrib/ansible" --offline >/dev/null || exit 1
printf '[gauge]\ngauge-01\ngauge-02\n[store]\nstore-01\n[all:vars]\nansible_ssh_common_args=-F %s\nansible_become_method=%s\n' "$config" sudo >"$work/inventory"
cat >"$work/hosts.toml" <<EOF
[role.gauge]
hosts = ["gauge-01", "gauge-02"]
[role.store]
hosts = ["store-01"]
EOF
"$work/venv/bin/ansible-playbook" -i "$work/inventory" bradawl.tables.collect -e "bradawl_collect_program=$program" \
    -e "bradawl_collect_to=$work/collected" -e bradawl_collect_become=false | tail -6
"$program" survey --from-collected "$work/collected" -o "$work/from" || exit 1
"$program" survey --hosts "$work/hosts.toml" -o "$work/records" --ssh-config "$config" || exit 1
failed=0
for host in gauge-01 gauge-02 store-01; do
    if python3 "$here/compare-records.py" "$work/from/$host.json" "$work/records/$host.json"; then echo "$host: alike"; else failed=1; fi
    python3 -c 'import json,sys; print(sys.argv[1], json.load(open(sys.argv[2]))["host"]["roles"])' "$host" "$work/from/$host.json"
done
exit $failed
