#!/usr/bin/env bash
# Everything that must hold: types, lint, generated files, Go tests (which start
# their own PostgreSQL and browser).
set -euo pipefail
cd "$(dirname "$0")/.."
echo "== TypeScript"
(cd web && npx tsc --noEmit && npx eslint src --max-warnings 0 && NO_COLOR=1 npx vitest run)
echo "== Go"
test -z "$(gofmt -l $(git ls-files '*.go'))" || { echo "gofmt has something to say"; gofmt -l $(git ls-files '*.go'); exit 1; }
go vet ./...
GOOS=js GOARCH=wasm go vet ./cmd/corewasm
export SLOWREVEAL_STEPREAD=$PWD/bin/stepread
go test -timeout 20m ./...
