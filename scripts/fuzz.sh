#!/usr/bin/env bash
# Holds the readers of files, commands and quantities against made-up input: so many of each, such as 10000x.
set -euo pipefail
cd "$(dirname "$0")/.."
for target in formats/gltf:FuzzRead formats/stl:FuzzRead formats/obj:FuzzRead formats/threemf:FuzzRead formats/threemf:FuzzModel \
  core/assembly:FuzzUnpack core/quantity:FuzzParse core/edit:FuzzCommand core/edit:FuzzDocument examine:FuzzFont examine:FuzzPicture; do
  said=$(go test -run '^$' -fuzz "^${target#*:}\$" -fuzztime "$1" -fuzzminimizetime 50x "./${target%:*}" 2>&1) || { echo "$said"; exit 1; }
  echo "$said" | tail -1
done
