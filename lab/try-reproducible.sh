#!/bin/bash
# Builds the static program that is given out from two directories with two homes of cargo, and compares digests.
# usage: lab/try-reproducible.sh [TARGET]
set -eu
cd "$(dirname "$0")/.."
target=${1:-x86_64-unknown-linux-musl}
rust=${RUSTUP_HOME:-$HOME/.rustup}
work=$(mktemp -d /var/tmp/reproducible.XXXXXX); trap 'rm -rf "$work"' EXIT
for name in one other/and/deeper; do
    git clone -q . "$work/$name"
    home=$work/home-${name%%/*}; mkdir -p "$home"
    (cd "$work/$name" && HOME=$home CARGO_HOME=$home/cargo RUSTUP_HOME=$rust TARGETS=$target .ci/release >"$work/log" 2>&1) || { tail -5 "$work/log"; exit 1; }
    sha256sum "$work/$name"/target/dist/bradawl-*-"$target" | cut -d' ' -f1 | tee -a "$work/digests"
done
[ "$(sort -u "$work/digests" | wc -l)" = 1 ] && echo "the same from both"
