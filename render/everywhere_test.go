package render

import (
	"crypto/sha256"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// Every machine draws the same bytes: pictures of the example, as amd64 has them. With SLOWREVEAL_RENEW=1 they are
// written anew.
func TestPicturesAreTheSameBytesOnEveryMachine(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	r, err := NewRenderer(scene, 320, 180, 1)
	require.NoError(t, err)
	fr, v, picture := f.NewFrame(), scene.NewView(), NewPicture(320, 180)
	var got strings.Builder
	for at := reveal.Micros(0); at <= f.Duration(); at += 9_700_000 {
		f.At(at, fr)
		v.Take(scene, fr, 16.0/9)
		r.Draw(v, picture)
		fmt.Fprintf(&got, "%d %x\n", at, sha256.Sum256(picture.RGB))
	}
	const kept = "testdata/pictures.txt"
	if os.Getenv("SLOWREVEAL_RENEW") != "" {
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile(kept, []byte(got.String()), 0o644))
	}
	want, err := os.ReadFile(kept)
	require.NoError(t, err)
	assert.Equal(t, string(want), got.String())
}
