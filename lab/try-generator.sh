#!/bin/bash
# try-generator.sh TREE...: has the generator of each root directory, which must be runnable here, say what it makes of
# every table of the corpus and of those in lab/generator-awkward.txt, and names the tables of which it makes something
# otherwise than the forecast. It runs as nobody, in namespaces of its own. No root needed; a kernel that lets users have
# namespaces.
set -eu
cd "$(dirname "$0")/.."
BRADAWL=${BRADAWL:-target/release/bradawl}
W=$(mktemp -d); trap 'rm -rf "$W"' EXIT
for f in crates/core/judgement/tests/corpus/*.fstab; do grep -v '^#=' "$f" > "$W/$(basename "$f")" || true; done
n=0; while IFS= read -r line; do
    case $line in '#'* | '') continue ;; esac
    n=$((n + 1)); printf '%b\n' "${line//%/%}" > "$W/awkward-$n"
done < lab/generator-awkward.txt
for tree in "$@"; do
    asked=0 otherwise=0
    for table in "$W"/*; do
        asked=$((asked + 1))
        said=$("$BRADAWL" audit "$tree" --table "$table" --ask-generator always --only generator-differs --format json || true)
        case $said in *'"rule": "generator-differs"'*) otherwise=$((otherwise + 1)); echo "  otherwise: $(head -c 90 "$table" | tr '\n' ' ')" ;; esac
    done
    echo "$tree: $asked tables, $otherwise made otherwise"
done
