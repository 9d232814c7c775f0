package main

import (
	"archive/zip"
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Everything of a client's pack in one go: film, sheet, manual in both forms, page, parts list and line drawings.
func TestASetHoldsPaperAndPagesToo(t *testing.T) {
	glb, doc := example(t)
	folder := t.TempDir()
	set := filepath.Join(folder, "set.json")
	require.NoError(t, os.WriteFile(set, []byte(`[
		{"name": "film", "width": 160, "height": 90, "purpose": "draft", "to": 500000},
		{"name": "sheet", "kind": "sheet", "sheet": {"title": {"number": "SR-0040"}, "list": {}}},
		{"name": "manual", "kind": "manual", "manual": {"title": "How to", "list": {}}},
		{"name": "steps", "kind": "manual", "format": "html"},
		{"name": "page", "kind": "page"},
		{"name": "parts", "kind": "parts"},
		{"name": "lines", "kind": "lines", "at": [0, 12000000]}
	]`), 0o644))
	code, out, said := command(
		t,
		"pack",
		"--assembly",
		glb,
		"--reveal",
		doc,
		"--set",
		set,
		"--out",
		filepath.Join(folder, "pack"),
		"--json",
		"--quiet",
	)
	require.Zero(t, code, said)
	var made []struct{ File, Kind string }
	require.NoError(t, json.Unmarshal([]byte(out), &made))
	require.Len(t, made, 7)
	for _, name := range []string{"film.mp4", "sheet.pdf", "manual.pdf", "steps.zip", "page.html", "parts.csv", "lines.zip"} {
		assert.FileExists(t, filepath.Join(folder, "pack", name))
	}
	z, err := zip.OpenReader(filepath.Join(folder, "pack", "steps.zip"))
	require.NoError(t, err)
	defer z.Close()
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	assert.Contains(t, names, "index.html")
	assert.Contains(t, names, "pictures/step-02-1.svg")
}

func TestPartsAreATableThatAddsUp(t *testing.T) {
	glb, doc := example(t)
	file := filepath.Join(t.TempDir(), "parts.csv")
	code, _, said := command(
		t,
		"parts",
		"--assembly",
		glb,
		"--reveal",
		doc,
		"--density",
		"Bare steel=7.85",
		"--out",
		file,
	)
	require.Zero(t, code, said)
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(data), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	parts, masses := 0, 0
	for _, row := range rows[1:] {
		n := len(strings.Fields(row[7]))
		assert.Equal(t, row[1], []string{"", "1", "2", "3", "4"}[n], row[2])
		parts += n
		if row[5] != "" {
			masses++
		}
	}
	assert.Equal(t, 80, parts) // as many as inspect counts
	assert.Positive(t, masses)
}

func TestPaperThatCannotBeIsRefusedInWords(t *testing.T) {
	glb, doc := example(t)
	of := func(name string, args ...string) []string {
		return append([]string{name, "--assembly", glb, "--reveal", doc}, args...)
	}
	at := func(name string) string { return filepath.Join(t.TempDir(), name) }
	for want, args := range map[string][]string{
		"A9":             of("sheet", "--size", "A9", "--out", at("x.pdf")),
		"png":            of("sheet", "--out", at("x.png")),
		"sideways":       of("sheet", "--view", "sideways", "--out", at("x.pdf")),
		"no-such-part":   of("sheet", "--detail-of", "no-such-part", "--out", at("x.pdf")),
		"99.00 s":        of("lines", "--time", "99", "--out", at("x.svg")),
		"scroll":         of("manual", "--template", "scroll", "--out", at("x.pdf")),
		"step-99":        of("manual", "--step", "step-99", "--out", at("x.pdf")),
		"soon":           of("page", "--until", "soon", "--out", at("x.html")),
		"Bare steel":     of("parts", "--density", "7.85", "--out", at("x.csv")),
		"not understood": of("manual", "--settings", glb, "--out", at("x.pdf")),
	} {
		code, _, said := command(t, args...)
		assert.Equal(t, 1, code, want)
		assert.Contains(t, said, want)
	}
}
