package server_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/store"
)

func TestThePageIsServedForEveryAddressOfTheApplication(t *testing.T) {
	s := newStand(t)
	for _, path := range []string{"/", "/p/01890000-0000-7000-8000-000000000000/direct", "/no/such/page", "/../../etc/passwd", "/assets/../../../etc/passwd"} {
		code, text, header := s.ask("GET", path, nil)
		assert.Equal(t, 200, code, path)
		assert.Contains(t, string(text), `<div id="root">`, path)
		assert.Equal(t, "no-cache", header.Get("Cache-Control"))
		assert.NotContains(t, string(text), "root:x")
	}
	code, text, _ := s.ask("POST", "/", nil)
	assert.Equal(t, http.StatusNotFound, code, string(text))
	code, _, _ = s.ask("PUT", "/api/projects", nil)
	assert.Equal(t, http.StatusMethodNotAllowed, code)
}

// The page itself holds no script of its own: only files of ours, by name.
func TestThePageHasNoInlineScript(t *testing.T) {
	s := newStand(t)
	_, text, _ := s.ask("GET", "/", nil)
	page := string(text)
	for _, tag := range strings.Split(page, "<script")[1:] {
		assert.Contains(t, tag[:strings.Index(tag, ">")], "src=")
		assert.True(t, strings.HasPrefix(tag[strings.Index(tag, ">")+1:], "</script>"))
	}
	assert.NotContains(t, page, "http://")
	assert.NotContains(t, page, "https://")
}

func TestAssetsAreCompressedAndCachedForGood(t *testing.T) {
	s := newStand(t)
	_, text, _ := s.ask("GET", "/", nil)
	scripts := regexp.MustCompile(`/assets/[^"]+\.js`).FindAllString(string(text), -1)
	require.NotEmpty(t, scripts)
	compressed := 0
	for _, script := range scripts {
		code, small, header := s.ask("GET", script, nil, "Accept-Encoding", "br")
		require.Equal(t, 200, code)
		assert.Equal(t, "br", header.Get("Content-Encoding"))
		assert.Contains(t, header.Get("Cache-Control"), "immutable")
		assert.Contains(t, header.Get("Content-Type"), "javascript")
		compressed += len(small)
		code, plain, header := s.ask("GET", script, nil, "Accept-Encoding", "identity")
		require.Equal(t, 200, code)
		assert.Empty(t, header.Get("Content-Encoding"))
		assert.Greater(t, len(plain), 2*len(small))
	}
	assert.LessOrEqual(t, compressed, 350_000, "the scripts that the page begins with, compressed")
}

// Every product has a small picture; it is another one when its finishes are others.
func TestAProductHasAPicture(t *testing.T) {
	s := newStand(t)
	p, _ := s.pump()
	picture := func() []byte {
		code, data, header := s.ask("GET", "/api/projects/"+p.ID+"/picture", nil)
		require.Equal(t, http.StatusOK, code, string(data))
		assert.Equal(t, "image/png", header.Get("Content-Type"))
		return data
	}
	first := picture()
	shown, err := png.Decode(bytes.NewReader(first))
	require.NoError(t, err)
	assert.Equal(t, image.Pt(192, 144), shown.Bounds().Size())
	colours := map[color.Color]bool{}
	for y := range 144 {
		for x := range 192 {
			colours[shown.At(x, y)] = true
		}
	}
	assert.Greater(t, len(colours), 500, "there is something on it")
	assert.Equal(t, first, picture(), "it is kept")
	_, before, _ := s.ask("GET", "/api/projects", nil)
	code, text := s.arrange(
		p.ID,
		0,
		map[string]any{
			"do":     "wear",
			"nodes":  []string{"housing"},
			"finish": map[string]any{"name": "Red", "colour": []float64{0.6, 0, 0}, "opacity": 1, "roughness": 0.5},
		},
	)
	require.Equal(t, http.StatusOK, code, string(text))
	_, after, _ := s.ask("GET", "/api/projects", nil)
	assert.NotEqual(t, read[[]store.Project](t, before)[0].Look, read[[]store.Project](t, after)[0].Look)
	assert.NotEqual(t, first, picture())
}
