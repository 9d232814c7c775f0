package step

import (
	"bytes"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"slowreveal/formats"
)

// document matches a file that a STEP file refers to: DOCUMENT_FILE's first
// field.
var document = regexp.MustCompile(`(?i)DOCUMENT_FILE\s*\(\s*'((?:[^']|'')*)'`)

// References returns the names of the files that a STEP file refers to, each
// once.
func References(data []byte) []string {
	var names []string
	seen := map[string]bool{}
	for _, m := range document.FindAllSubmatch(data, -1) {
		name := strings.ReplaceAll(string(m[1]), "''", "'")
		if name != "" && !seen[name] {
			seen[name] = true
			names = append(names, name)
		}
	}
	return names
}

// checkReferences refuses a STEP file that names files elsewhere, also by way of
// the files that it names, and returns those that are missing.
func checkReferences(kind, path string) (missing []string, err error) {
	if kind != "step" {
		return nil, nil
	}
	dir := filepath.Dir(path)
	folder, err := os.OpenRoot(dir)
	if err != nil {
		return nil, err
	}
	defer folder.Close()
	queue, seen := []string{filepath.Base(path)}, map[string]bool{}
	for len(queue) > 0 {
		name := queue[0]
		queue = queue[1:]
		if seen[name] {
			continue
		}
		seen[name] = true
		data, err := readIn(folder, name)
		if err != nil {
			if name == filepath.Base(path) {
				return nil, fmt.Errorf("the file cannot be read: %w", err)
			}
			missing = append(missing, name)
			continue
		}
		if head := bytes.TrimLeft(data[:min(len(data), 4096)], "\xef\xbb\xbf \t\r\n"); !bytes.HasPrefix(
			head,
			[]byte("ISO-10303-21"),
		) {
			return nil, fmt.Errorf("%s is not a STEP file, or it is damaged", name)
		}
		if !bytes.Contains(data[max(0, len(data)-4096):], []byte("END-ISO-10303-21")) {
			return nil, fmt.Errorf("%s is cut off: it has no end; copy or export it again", name)
		}
		for _, ref := range References(data) {
			if strings.ContainsAny(ref, "/\\:") || !fs.ValidPath(ref) {
				return nil, fmt.Errorf(
					"%s refers to %q; only files that lie beside it are opened",
					name,
					formats.Clipped(ref),
				)
			}
			queue = append(queue, ref)
		}
	}
	return missing, nil
}

func readIn(folder *os.Root, name string) ([]byte, error) {
	f, err := folder.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, formats.MaxFile))
}
