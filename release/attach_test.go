package release_test

import (
	"image"
	"image/png"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/release"
)

// Files that outputs use are looked into; a damaged or an absent one is told in words.
func TestWhatIsAttached(t *testing.T) {
	m, doc := pump()
	doc.Steps[0].Title = "蓋を外す"
	folder := t.TempDir()
	font := filepath.Join(
		"..",
		"web",
		"node_modules",
		"@fontsource",
		"sawarabi-gothic",
		"files",
		"sawarabi-gothic-japanese-400-normal.woff",
	)
	broken := filepath.Join(folder, "broken")
	require.NoError(t, os.WriteFile(broken, []byte("neither a font nor a picture"), 0o600))
	picture := filepath.Join(folder, "p.png")
	f, err := os.Create(picture)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, image.NewGray(image.Rect(0, 0, 8, 8))))
	require.NoError(t, f.Close())
	find := func(path string, _ release.AttachmentKind) (string, error) {
		if path == "" {
			return "", os.ErrNotExist
		}
		return path, nil
	}
	for want, s := range map[string]release.Settings{
		"no font that can be read":        {Font: broken},
		"background is not a picture":     {Background: "picture", Picture: broken},
		"opening the background":          {Background: "picture", Picture: filepath.Join(folder, "gone.png")},
		"the logo of this output is gone": {Logo: &release.Logo{Corner: "upper-left"}},
	} {
		w, err := release.Plan(s, m, doc, nil)
		require.NoError(t, err)
		assert.ErrorContains(t, w.Attach(find), want)
	}
	for want, s := range map[string]release.Settings{
		"none is attached": {Background: "picture"},
		"an aperture of":   {Aperture: 0.1},
		"depth of field":   {Kind: release.Stills, SixteenBits: true, Aperture: 4},
	} {
		_, err := release.Plan(s, m, doc, nil)
		assert.ErrorContains(t, err, want)
	}
	w, err := release.Plan(
		release.Settings{
			Captions:   true,
			Width:      64,
			Height:     36,
			To:         reveal.Second / 2,
			Background: "picture",
			Picture:    picture,
		},
		m,
		doc,
		nil,
	)
	require.NoError(t, err)
	require.NoError(t, w.Attach(find))
	lacks, err := w.Lacks()
	require.NoError(t, err)
	assert.Equal(t, "蓋を外す", lacks)
	img, err := w.Poster()
	require.NoError(t, err)
	r, g, b, _ := img.At(0, 0).RGBA()
	assert.Zero(t, r+g+b, "the picture is black")
	w, err = release.Plan(release.Settings{Captions: true, Font: font}, m, doc, nil)
	require.NoError(t, err)
	require.NoError(t, w.Attach(find))
	lacks, err = w.Lacks()
	require.NoError(t, err)
	assert.Empty(t, lacks)
}

// Signs that no font has are refused and named before anything is made; fonts complete each other, and boxes may be
// asked for. Where words stay words, no font is asked for.
func TestSignsWithoutAFontAreRefused(t *testing.T) {
	m, doc := pump()
	doc.Steps[0].Title = "Ábřčő Καλημέρα Доброе утро 蓋を外す غطاء"
	files := filepath.Join("..", "web", "node_modules", "@fontsource")
	japanese := filepath.Join(files, "sawarabi-gothic", "files", "sawarabi-gothic-japanese-400-normal.woff")
	arabic := filepath.Join(files, "noto-sans-arabic", "files", "noto-sans-arabic-arabic-400-normal.woff")
	for _, c := range []struct {
		s    release.Settings
		want string
	}{
		{release.Settings{Captions: true}, "no font has the signs 蓋 を 外 す غ ط ا ء"},
		{release.Settings{Captions: true, Font: japanese}, "no font has the signs غ ط ا ء"},
		{release.Settings{Captions: true, Fonts: []string{arabic}}, "no font has the signs 蓋 を 外 す"},
		{release.Settings{Captions: true, Font: arabic, Fonts: []string{japanese}}, ""},
		{release.Settings{Captions: true, Fonts: []string{japanese, arabic}}, ""},
		{release.Settings{Captions: true, Boxes: true}, ""},
		{release.Settings{Kind: release.Captions}, ""},
		{release.Settings{Kind: release.GLB}, ""},
	} {
		w, err := release.Plan(c.s, m, doc, nil)
		require.NoError(t, err)
		require.NoError(t, w.Attach(func(path string, _ release.AttachmentKind) (string, error) { return path, nil }))
		if err := w.Readable(); c.want == "" {
			assert.NoError(t, err, "%+v", c.s)
		} else {
			assert.ErrorContains(t, err, c.want)
		}
	}
	_, err := release.Plan(release.Settings{Fonts: slices.Repeat([]string{arabic}, 9)}, m, doc, nil)
	assert.ErrorContains(t, err, "more than 8")
}
