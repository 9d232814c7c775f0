package render

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/demo"
)

// exampleAt returns the example's scene, its view at a time, and a renderer of a size.
func exampleAt(t *testing.T, at reveal.Micros, width, height int) (*Scene, *View, *Renderer) {
	t.Helper()
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	fr, v := f.NewFrame(), scene.NewView()
	f.At(at, fr)
	v.Take(scene, fr, float64(width)/float64(height))
	r, err := NewRenderer(scene, width, height, 1)
	require.NoError(t, err)
	return scene, v, r
}

// Between the places where the shadow is looked up it is as it would be if it were looked up
// everywhere, to less than one level of 255.
func TestShadowBetweenPlacesIsAsDarkAsThere(t *testing.T) {
	_, v, r := exampleAt(t, 12_500_000, 1920, 1080)
	r.Draw(v, NewPicture(1920, 1080))
	l := newLights(&look.Default, v)
	one := newTile()
	tiles, dark := 0, float32(0)
	for i := range r.bins {
		one.x0, one.y0 = i%r.across*tileSide, i/r.across*tileSide
		one.contactShadow.clear()
		if !r.straight(one, v) {
			continue
		}
		tiles++
		for y := range tileSide {
			var exact contactShadowRow
			r.lookUp(&exact, one, y, v, l.shadow)
			for run, d := range r.contactShadowOf(one, y, v, l.shadow) {
				require.InDelta(t, exact[run], d, 1.0/255)
				dark = max(dark, d)
			}
		}
	}
	assert.Greater(t, tiles, 100)
	assert.Greater(t, dark, float32(0.05), "there is a shadow")
}

// Drawn by single triangles the example looks the same: no gap, no other outline, and hardly
// another shade.
func TestQuadranglesLookLikeTheirTriangles(t *testing.T) {
	scene, v, r := exampleAt(t, 12_500_000, 640, 360)
	joined, alone := NewPicture(640, 360), NewPicture(640, 360)
	r.Draw(v, joined)
	single := *scene
	single.orders, single.triangle = nil, nil
	for _, s := range scene.shapes {
		single.orders = append(single.orders, singlesOf(s))
		single.triangle = append(single.triangle, trianglesOf(s, s.Triangles))
	}
	r, err := NewRenderer(&single, 640, 360, 1)
	require.NoError(t, err)
	r.Draw(v, alone)
	sum, far := 0, 0
	for i, a := range joined.RGB {
		d := max(int(a), int(alone.RGB[i])) - min(int(a), int(alone.RGB[i]))
		sum += d
		if d > 12 {
			far++
		}
	}
	assert.Less(t, float64(sum)/float64(len(joined.RGB)), 0.02)
	assert.Less(t, far, len(joined.RGB)/2000)
}

func singlesOf(s *solid.Shape) (o order) {
	for t := range int32(len(s.Triangles) / 3) {
		c := s.Triangles[3*t : 3*t+3]
		o.outer = append(o.outer, meshFace{corner: [4]uint32{c[0], c[1], c[2], c[2]}, first: t, second: -1})
	}
	return o
}

// A part's box is that of the faces it has now, whatever it had in other pictures.
func TestAPartsBoxHoldsItsFacesAndNoMore(t *testing.T) {
	_, far, r := exampleAt(t, 12_500_000, 640, 360)
	_, v, _ := exampleAt(t, 31_000_000, 640, 360)
	r.Draw(far, NewPicture(640, 360))
	r.Draw(v, NewPicture(640, 360))
	seen := 0
	for k := range r.seen {
		s := &r.seen[k]
		if !s.visible || len(s.faces) == 0 {
			continue
		}
		want := noPixels
		for i := range s.faces {
			want = want.with(&s.faces[i])
		}
		require.Equal(t, want, s.box)
		seen++
	}
	assert.Greater(t, seen, 10)
}
