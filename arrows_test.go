// Package slowreveal_test holds the packages against docs/architecture.md.
package slowreveal_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// arrows are the layers that docs/architecture.md names: for each package, how far down it is.
func arrows(t *testing.T) map[string]int {
	t.Helper()
	text, err := os.ReadFile("docs/architecture.md")
	require.NoError(t, err)
	line := regexp.MustCompile("Arrows point downwards only.*: `(.*)`").FindSubmatch(text)
	require.NotNil(t, line)
	depth := map[string]int{}
	for i, layer := range strings.Split(string(line[1]), " → ") {
		for _, name := range strings.Split(layer, ", ") {
			depth[name] = i
		}
	}
	return depth
}

// A package imports only what is in a layer below its own.
func TestArrowsPointDownwards(t *testing.T) {
	depth, looked := arrows(t), 0
	for room := range depth {
		require.NoError(t, filepath.WalkDir(room, func(path string, _ fs.DirEntry, err error) error {
			if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
			if err != nil {
				return err
			}
			for _, i := range file.Imports {
				name, err := strconv.Unquote(i.Path.Value)
				rest, ours := strings.CutPrefix(name, "slowreveal/")
				if err != nil || !ours {
					continue
				}
				of, _, _ := strings.Cut(rest, "/")
				if below, known := depth[of]; of != room && known {
					looked++
					assert.Greater(t, below, depth[room], "%s imports %s", path, name)
				}
			}
			return nil
		}))
	}
	assert.Greater(t, looked, 200)
}
