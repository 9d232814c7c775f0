package examine_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"image"
	"image/png"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/examine"
	"slowreveal/render"
	"slowreveal/render/lettering"
)

func written(t *testing.T, data []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	return path
}

func shipped(t testing.TB) []byte {
	t.Helper()
	data, err := os.ReadFile("../render/lettering/fonts/literata-latin-400-normal.woff")
	require.NoError(t, err)
	return data
}

// greedy is a font of some hundred bytes whose tables say that they have gigabytes.
func greedy() []byte {
	be := binary.BigEndian
	b := be.AppendUint16([]byte("\x00\x01\x00\x00"), 24)
	b = append(b, make([]byte, 6)...)
	for _, tag := range []string{"head", "maxp", "cmap", "OS/2", "hhea", "hmtx", "name", "post", "loca", "glyf", "CFF ", "GSUB", "GPOS", "GDEF", "kern", "vhea", "vmtx", "fvar", "avar", "gvar", "HVAR", "MVAR", "morx", "sbix"} {
		b = be.AppendUint32(append(b, tag...), 0)
		b = be.AppendUint32(be.AppendUint32(b, 12), 0xFFFFFFF0)
	}
	return b
}

func TestAFontThatAsksForGigabytesIsRefused(t *testing.T) {
	data := greedy()
	assert.Less(t, len(data), 500)
	err := examine.File(context.Background(), examine.Font, written(t, data))
	assert.ErrorContains(t, err, "longer than the file")
}

func TestGoodFilesPass(t *testing.T) {
	assert.NoError(t, examine.File(context.Background(), examine.Font, written(t, shipped(t))))
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewNRGBA(image.Rect(0, 0, 40, 30))))
	assert.NoError(t, examine.File(context.Background(), examine.Picture, written(t, b.Bytes())))
	assert.ErrorContains(
		t,
		examine.File(context.Background(), examine.Picture, written(t, []byte("GIF89a"))),
		"not a picture that can be read",
	)
	assert.Error(t, examine.File(context.Background(), examine.Font, filepath.Join(t.TempDir(), "gone")))
}

// Sixty fonts with bytes that are not theirs: each is taken or refused in words, within the bounds. The
// process that looks has the memory limit of the kernel: were one to ask for more, it would be said here.
func TestDamagedFontsStayWithinTheirBounds(t *testing.T) {
	good := shipped(t)
	random := rand.New(rand.NewPCG(3, 1))
	refused := 0
	for range 60 {
		data := bytes.Clone(good)
		for range 1 + random.IntN(40) {
			at := random.IntN(len(data))
			if random.IntN(2) == 0 {
				at = random.IntN(600) // the directory
			}
			data[at] = byte(random.IntN(256))
		}
		if err := examine.File(context.Background(), examine.Font, written(t, data)); err != nil {
			refused++
			assert.NotEmpty(t, err.Error())
		}
	}
	assert.Positive(t, refused)
}

// What is read without the process is bounded by construction, too.
func FuzzFont(f *testing.F) {
	f.Add(greedy())
	f.Add(shipped(f)[:2000])
	f.Fuzz(func(t *testing.T, data []byte) {
		if font, err := lettering.ReadFont(data); err == nil {
			_ = font.Try()
		}
	})
}

func FuzzPicture(f *testing.F) {
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewNRGBA(image.Rect(0, 0, 5, 4))); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	f.Add([]byte("\xff\xd8\xff\xe0\x00\x10JFIF\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if img, err := render.ReadImage(bytes.NewReader(data), "picture"); err == nil && img.Bounds().Empty() {
			t.Error("an empty picture was taken")
		}
	})
}
