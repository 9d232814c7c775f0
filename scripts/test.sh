#!/usr/bin/env bash
# Everything that must hold: types, lint, generated files, Go tests (which start
# their own PostgreSQL and browser). A failure does not keep the rest from being asked.
set -uo pipefail
cd "$(dirname "$0")/.."
failed=()
holds() { # what is asked, and the command that asks
  local begun=$SECONDS
  echo "== $1"
  "${@:2}" || failed+=("$1")
  echo "   ($((SECONDS - begun)) s)"
}

formatted() {
  local unformatted
  unformatted=$(scripts/format.sh --list) && test -z "$unformatted" || { echo "make format has something to do:"; echo "$unformatted"; return 1; }
}

web() { (cd web && NO_COLOR=1 npx "$@"); }

export SLOWREVEAL_STEPREAD=$PWD/bin/stepread
# The page's checks are at work beside Go's: each of them has one processor.
said=$(mktemp)
(
  failed=()
  holds "TypeScript is laid out" web prettier --check --cache --log-level warn .
  holds "The API's types in TypeScript" web openapi-typescript openapi.gen.json -o src/api/schema.gen.ts --check
  holds "TypeScript's types" web tsc --noEmit
  holds "TypeScript's lint" web eslint src --cache --cache-location node_modules/.cache/eslint/ --max-warnings 0
  holds "TypeScript's tests" web vitest run --testTimeout 120000
  [ ${#failed[@]} -eq 0 ]
) > "$said" 2>&1 &
page=$!
holds "Go is laid out" formatted
holds "go vet" go vet ./...
holds "go vet, WebAssembly" env GOOS=js GOARCH=wasm go vet ./cmd/corewasm
holds "go vet, the client page's core" env GOOS=js GOARCH=wasm go vet -tags player ./cmd/corewasm
holds "go vet, arm64" env GOARCH=arm64 go vet ./core/... ./render ./sequence
holds "staticcheck" go tool staticcheck ./...
wait $page || failed+=("TypeScript")
cat "$said"
# The longest ones first, so that both processors have work until the end. At full length: make drill.
longest="./server ./cmd/slowreveal ./sequence ./core/joint ./drill ./renewal"
holds "Go tests" go test -vet=off -short -timeout 40m $longest $(go list ./... | grep -v '/e2e$')
# A browser without a GPU, on a machine that others use too, may once be too late: what fails is asked once more, alone,
# and both answers are printed.
holds "The interface" go tool gotestsum --format standard-quiet --hide-summary=skipped --rerun-fails=1 --rerun-fails-max-failures=3 --packages ./e2e -- -vet=off -short -timeout 40m
holds "Pictures and films without vectors" go test -vet=off -short -tags purego -run 'SameBytes|BytesDoNotDepend|CoherentFrames|FilmIsTheSame|Decoded' ./render ./sequence

[ ${#failed[@]} -eq 0 ] && echo "== Everything holds" && exit 0
echo "== Does not hold: $(printf '%s; ' "${failed[@]}")"
exit 1
