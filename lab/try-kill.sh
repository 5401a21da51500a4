#!/bin/bash
# Ends a write of a table at every one of its system calls, one after another,
# and looks at what is left: the old table or the new one, whole, and no other;
# and the next write works. Needs Debian's strace.
# usage: lab/try-kill.sh PROGRAM
set -u
program=$(realpath "${1:?usage: lab/try-kill.sh PROGRAM}")
record=$(realpath "$(dirname "$0")/../demo/mooring.json")
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work" || exit 1
python3 -c 'import json,sys; open("old","w").write(json.load(open(sys.argv[1]))["tables"][0]["text"])' "$record"
cp old fstab && "$program" mend "$record" --table fstab --write >/dev/null
cp fstab new; rm -f fstab*
# Every call of a whole run, by name, in order.
rm -f fstab* .fstab*; cp old fstab
strace -f -qq -o trace "$program" mend "$record" --table fstab --write >/dev/null 2>&1
old=0; after=0
while read -r name count; do
    for n in $(seq "$count"); do
        rm -f fstab* .fstab*; cp old fstab
        (strace -f -qq -o /dev/null -e "inject=$name:signal=KILL:when=$n" \
            "$program" mend "$record" --table fstab --write >/dev/null 2>&1) 2>/dev/null
        if cmp -s fstab old; then old=$((old + 1))
        elif cmp -s fstab new; then after=$((after + 1)); continue
        else echo "a third table after call $n of $name"; exit 1; fi
        "$program" mend "$record" --table fstab --write >/dev/null
        cmp -s fstab new || { echo "the next write does not work after call $n of $name"; exit 1; }
    done
done < <(sed -E 's/^[0-9]+ +//; s/\(.*//' trace | grep -E '^[a-z0-9_]+$' | grep -v '^exit' | sort | uniq -c | awk '{print $2, $1}')
echo "ended at each of $((old + after)) system calls: $old times the old table, $after times the new one, none else"
