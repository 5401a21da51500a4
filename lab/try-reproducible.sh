#!/bin/bash
# Builds the static program that is given out from two directories with two homes of cargo, and compares digests.
# usage: lab/try-reproducible.sh [TARGET]
set -eu
cd "$(dirname "$0")/.."
target=${1:-x86_64-unknown-linux-musl}
work=$(mktemp -d /var/tmp/reproducible.XXXXXX); trap 'rm -rf "$work"' EXIT
for name in one other/and/deeper; do
    git clone -q . "$work/$name"
    home=$work/home-${name%%/*}; mkdir -p "$home"
    (cd "$work/$name" && HOME=$home CARGO_HOME=$home/cargo RUSTUP_HOME=${RUSTUP_HOME:-$HOME/.rustup} TARGETS=$target .ci/release >/dev/null 2>&1)
    sha256sum "$work/$name"/target/dist/bradawl-*-"$target" | cut -d' ' -f1 | tee -a "$work/digests"
done
[ "$(sort -u "$work/digests" | wc -l)" = 1 ] && echo "the same from both"
