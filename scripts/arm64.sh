#!/usr/bin/env bash
# Runs the tests of the core and of the renderer as arm64 has them, in an emulator: it has to come to the same bits.
# The compiler may fuse a multiplication and an addition there, which rounds once instead of twice; -d=fmahash=n
# keeps it from that (docs/decisions/0018), as in the program's own build for arm64. What it says of each place is
# of no use here.
set -euo pipefail
cd "$(dirname "$0")/.."
export GOOS=linux GOARCH=arm64 CGO_ENABLED=0
emulator=$(command -v qemu-aarch64-static || command -v qemu-aarch64) || { echo "qemu-user is not installed"; exit 1; }
for package in "$@"; do
  name=$(mktemp)
  go test -c -gcflags=all=-d=fmahash=n -o "$name" "./$package" 2> /tmp/fused.txt || { tail -5 /tmp/fused.txt; exit 1; }
  echo "== $package on arm64"
  (cd "$package" && "$emulator" "$name" -test.short ${RUN:+-test.run "$RUN"} | tail -3)
  rm "$name"
done
