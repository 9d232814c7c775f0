package release_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	khronos "github.com/qmuntal/gltf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/release"
)

// comments are the international texts of a PNG with the keyword Comment, by the chunks' own lengths.
func comments(t *testing.T, data []byte) (list []string) {
	t.Helper()
	_, err := png.Decode(bytes.NewReader(data)) // which checks the sums of all chunks
	require.NoError(t, err)
	for at := 8; at < len(data); {
		length := int(binary.BigEndian.Uint32(data[at:]))
		body := string(data[at+8 : at+8+length])
		if text, ok := strings.CutPrefix(body, "Comment\x00\x00\x00\x00\x00"); ok && string(data[at+4:at+8]) == "iTXt" {
			list = append(list, text)
		}
		at += 12 + length
	}
	return list
}

// What a file was made of is read from it by others' readers: FFmpeg, Poppler, a glTF reader, a PNG by its chunks.
func TestFilesSayWhatTheyWereMadeOf(t *testing.T) {
	m := demo.PumpB()
	doc := demo.Teardown(m.Assembly)
	doc.Steps = doc.Steps[:1]
	want := "Made of DP-40 dosing pump, revision B (dp-40-b.glb), revision 2, variant Heated; reveal " + doc.Title + ", version 12"
	make := func(s release.Settings) string {
		s.Variant, s.Width, s.Height = "Heated", 160, 90
		w, err := release.Plan(s, m, doc, nil)
		require.NoError(t, err)
		w.Origin = release.Origin{File: "dp-40-b.glb", Revision: 2, Version: 12}
		assert.Equal(t, want, w.MadeOf())
		out := filepath.Join(t.TempDir(), "out."+w.Extension())
		require.NoError(t, w.Make(context.Background(), out, func(int, int) {}))
		return out
	}

	for _, format := range []string{"mp4-h264", "mov-prores", "webm-vp9"} {
		film := make(release.Settings{Format: format, Rate: 10, To: 300_000})
		said, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "format_tags:stream_tags", film).
			CombinedOutput()
		require.NoError(t, err)
		assert.Contains(t, string(said), want, format)
	}

	data, err := os.ReadFile(make(release.Settings{Kind: release.Stills, At: []reveal.Micros{0}}))
	require.NoError(t, err)
	assert.Equal(t, []string{want}, comments(t, data))

	said, err := exec.Command("pdfinfo", make(release.Settings{Kind: release.Sheet})).Output()
	require.NoError(t, err)
	assert.Contains(t, string(said), want)

	glb, err := khronos.Open(make(release.Settings{Kind: release.GLB}))
	require.NoError(t, err)
	assert.Equal(t, want, glb.Asset.Extras.(map[string]any)["madeOf"])
}
