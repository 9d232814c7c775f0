#!/usr/bin/env bash
# Takes the pictures of docs/screenshots from a demo of its own.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=$(mktemp -d)
chmod 755 "$folder"
bin/slowreveal serve --demo --data "$folder" --addr 127.0.0.1:7749 &
server=$!
trap 'kill $server; wait $server || true; rm -rf "$folder"' EXIT
for _ in $(seq 60); do curl -sf http://127.0.0.1:7749/api/health >/dev/null && break; sleep 0.5; done
go run ./e2e/screenshots http://127.0.0.1:7749 docs/screenshots
