#!/bin/sh
# Judges changed tables against the records of their hosts. A table is named
# HOST.fstab, or lies below a directory of the host's name (HOST/fstab,
# HOST/etc/fstab); the record is records/HOST.json, or what RECORDS names.
# usage: tables.sh TABLE...
records=${RECORDS:-records}
status=0
for table do
    case $table in
        *.fstab) host=$(basename "$table" .fstab) ;;
        */etc/fstab) host=$(basename "${table%/etc/fstab}") ;;
        */fstab) host=$(basename "${table%/fstab}") ;;
        *) host= ;;
    esac
    record=$records/$host.json
    if [ -z "$host" ] || [ ! -f "$record" ]; then
        echo "$table: no record of its host ($record); take one with: bradawl survey -o $record" >&2
        status=1
        continue
    fi
    if git cat-file -e "HEAD:$table" 2>/dev/null; then
        printf 'before  '
        git show "HEAD:$table" | bradawl audit "$record" --table - --quiet --fail-on never --not-known 0
    fi
    printf 'after   '
    bradawl audit "$record" --table "$table" --quiet --fail-on never --not-known 0
    bradawl audit "$record" --table "$table" --no-pager || status=1
done
exit $status
