#!/usr/bin/env bash
# Lays out Go with gofmt and golines, 120 columns; with --list it only tells of files that are laid out otherwise.
# What a line cannot be broken at (a text, a struct's tag) may be longer.
set -euo pipefail
cd "$(dirname "$0")/.."
do=-w
[ "${1:-}" = --list ] && do=-l
mapfile -t files < <(git ls-files '*.go')
gofmt $do "${files[@]}"
go tool golines -m 120 -t 4 --base-formatter=gofmt --no-reformat-tags $do "${files[@]}"
