#!/bin/bash
# The files of columns of a fleet, asked by a query engine of the registry: what it counts is what the audit says itself.
# Needs python3 with venv, network to its registry; a program built with --features parquet.
# usage: lab/try-columns.sh PROGRAM RECORDS
set -eu
program=$(realpath "$1") records=$(realpath "$2")
work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
python3 -m venv "$work/venv"
"$work/venv/bin/pip" -q install duckdb
"$program" audit "$records" --no-policy --summary --format json --columns "$work/columns" --fail-on never >"$work/sums.json"
ls -l "$work/columns" | awk 'NR > 1 {print $9, $5, "bytes"}'
cd "$work"
"$work/venv/bin/python" - <<'P'
import duckdb, json
told = json.load(open('sums.json'))
ask = lambda sql: duckdb.sql(sql).fetchall()
lost = [h['host'] for h in told['hosts'] if h['outcome'] not in ('up', 'partial', 'not-known')]
checks = {
    'hosts': (ask("select count(*) from 'columns/hosts.parquet'")[0][0], len(told['hosts'])),
    'hosts that do not come back': (sorted(h for h, in ask("select host from 'columns/hosts.parquet' where not reaches_login")), sorted(lost)),
    'findings that halt': (ask("select count(*) from 'columns/findings.parquet' where consequence = 'halt'")[0][0], told['totals']['halt']),
    'risks by the host': (ask("select sum(risk) from 'columns/hosts.parquet'")[0][0], told['totals']['risk']),
    'findings have their hosts': (ask("select count(*) from 'columns/findings.parquet' f anti join 'columns/hosts.parquet' h using (host)")[0][0], 0),
}
for what, (asked, said) in checks.items():
    assert asked == said, (what, asked, said)
    print(f'{what}: as the audit says')
print('entries with nofail, by type:', ask("""select fstype, count(*) from 'columns/entries.parquet'
    where list_contains(string_split(options, ','), 'nofail') group by 1 order by 2 desc limit 3"""))
print('labels on most hosts:', ask("select label, count(distinct host) from 'columns/devices.parquet' where label is not null group by 1 order by 2 desc, 1 limit 3"))
P
