#!/usr/bin/env bash
# Everything that must hold: types, lint, generated files, Go tests (which start
# their own PostgreSQL and browser).
set -euo pipefail
cd "$(dirname "$0")/.."
echo "== TypeScript"
(cd web && npx prettier --check --log-level warn . && npx tsc --noEmit && npx eslint src --max-warnings 0 && NO_COLOR=1 npx vitest run)
echo "== Go"
unformatted=$(scripts/format.sh --list)
test -z "$unformatted" || { echo "make format has something to do:"; echo "$unformatted"; exit 1; }
go vet ./...
GOOS=js GOARCH=wasm go vet ./cmd/corewasm
GOARCH=arm64 go vet ./core/... ./render ./sequence
go tool staticcheck ./...
export SLOWREVEAL_STEPREAD=$PWD/bin/stepread
echo "== Against made-up input, thirty thousand inputs each"
for target in formats/gltf:FuzzRead formats/stl:FuzzRead formats/obj:FuzzRead formats/threemf:FuzzRead formats/threemf:FuzzModel \
  core/assembly:FuzzUnpack core/quantity:FuzzParse core/edit:FuzzCommand core/edit:FuzzDocument examine:FuzzFont examine:FuzzPicture; do
  said=$(go test -run '^$' -fuzz "^${target#*:}\$" -fuzztime 30000x -fuzzminimizetime 50x "./${target%:*}" 2>&1) || { echo "$said"; exit 1; }
  echo "$said" | tail -1
done
echo "== Go tests"
go test -short -timeout 80m ./... # at full length: make drill
echo "== The renderer without vectors"
go test -short -tags purego ./render ./sequence
