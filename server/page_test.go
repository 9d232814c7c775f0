package server_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
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
	from := strings.Index(string(text), "/assets/")
	require.Positive(t, from)
	script := string(text)[from : from+strings.Index(string(text)[from:], `"`)]
	code, small, header := s.ask("GET", script, nil, "Accept-Encoding", "br")
	require.Equal(t, 200, code)
	assert.Equal(t, "br", header.Get("Content-Encoding"))
	assert.Contains(t, header.Get("Cache-Control"), "immutable")
	assert.Contains(t, header.Get("Content-Type"), "javascript")
	assert.LessOrEqual(t, len(small), 350_000, "the application's script, compressed")
	code, plain, header := s.ask("GET", script, nil, "Accept-Encoding", "identity")
	require.Equal(t, 200, code)
	assert.Empty(t, header.Get("Content-Encoding"))
	assert.Greater(t, len(plain), 2*len(small))
}
