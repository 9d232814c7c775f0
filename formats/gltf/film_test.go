package gltf_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	khronos "github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/formats/gltf"
)

// played is a GLB's animation, as KHR_animation_pointer has it.
type played struct {
	doc      *khronos.Document
	pointers map[string]*khronos.AnimationSampler // by what they point at
}

func play(t *testing.T, glb []byte) played {
	t.Helper()
	p := played{doc: new(khronos.Document), pointers: map[string]*khronos.AnimationSampler{}}
	require.NoError(t, khronos.NewDecoder(bytes.NewReader(glb)).Decode(p.doc))
	for _, c := range p.doc.Animations[0].Channels {
		if raw, ok := c.Target.Extensions["KHR_animation_pointer"]; ok {
			var to struct{ Pointer string }
			require.NoError(t, json.Unmarshal(raw.(json.RawMessage), &to))
			p.pointers[to.Pointer] = p.doc.Animations[0].Samplers[c.Sampler]
		}
	}
	return p
}

// at returns a sampler's values at t, linear between keys (glTF 2.0, appendix C).
func (p *played) at(t *testing.T, s *khronos.AnimationSampler, at float64) []float64 {
	t.Helper()
	times, err := modeler.ReadAccessor(p.doc, p.doc.Accessors[s.Input], nil)
	require.NoError(t, err)
	values, err := modeler.ReadAccessor(p.doc, p.doc.Accessors[s.Output], nil)
	require.NoError(t, err)
	key := times.([]float32)
	k := 0
	for k+1 < len(key)-1 && float64(key[k+1]) < at {
		k++
	}
	u := max(0, min((at-float64(key[k]))/float64(key[k+1]-key[k]), 1))
	mix := func(a, b float32) float64 { return float64(a) + (float64(b)-float64(a))*u }
	switch v := values.(type) {
	case []float32:
		return []float64{mix(v[k], v[k+1])}
	case [][4]float32:
		out := make([]float64, 4)
		for c := range out {
			out[c] = mix(v[k][c], v[k+1][c])
		}
		return out
	}
	t.Fatalf("%T", values)
	return nil
}

// mesh is the one of a part's meshes that is there.
func (p *played) mesh(t *testing.T, node int, at float64) (mesh int) {
	t.Helper()
	if m := p.doc.Nodes[node].Mesh; m != nil {
		return *m
	}
	there := 0
	for _, child := range p.doc.Nodes[node].Children {
		for _, c := range p.doc.Animations[0].Channels {
			if c.Target.Node == nil || *c.Target.Node != child || c.Target.Path != khronos.TRSScale {
				continue
			}
			s := p.doc.Animations[0].Samplers[c.Sampler]
			require.Equal(t, khronos.InterpolationStep, s.Interpolation)
			times, err := modeler.ReadAccessor(p.doc, p.doc.Accessors[s.Input], nil)
			require.NoError(t, err)
			values, err := modeler.ReadAccessor(p.doc, p.doc.Accessors[s.Output], nil)
			require.NoError(t, err)
			k := 0
			for k+1 < len(times.([]float32)) && float64(times.([]float32)[k+1]) <= at {
				k++
			}
			if values.([][3]float32)[k][0] == 1 {
				mesh = *p.doc.Nodes[child].Mesh
				there++
			}
		}
	}
	require.Equal(t, 1, there, "of the solid and the fading mesh one is there")
	return mesh
}

// What fades and is tinted looks between the keys as the film has it, within a display
// step's half. The other side of the comparison is Film.At.
func TestTheGLBsSurfacesChangeAsTheFilms(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	glb, err := gltf.WriteFilm(context.Background(), m, f, "Made of m; reveal r")
	require.NoError(t, err)
	p := play(t, glb)
	random := rand.New(rand.NewPCG(5, 8))
	fr := f.NewFrame()
	compared, tinted, moments := 0, 0, 120
	if testing.Short() {
		moments = 40
	}
	for range moments {
		at := random.Float64() * float64(f.Duration())
		f.At(reveal.Micros(at), fr)
		for i := range m.Assembly.Nodes {
			n := &m.Assembly.Nodes[i]
			if !n.IsPart() {
				continue
			}
			for k, primitive := range p.doc.Meshes[p.mesh(t, i, at/1e6)].Primitives {
				s := p.pointers[fmt.Sprintf("/materials/%d/pbrMetallicRoughness/baseColorFactor", *primitive.Material)]
				if s == nil {
					assert.Equal(t, 1.0, fr.Opacity[i], n.Name)
					assert.Zero(t, fr.Tint[i].Amount, n.Name)
					continue
				}
				got := p.at(t, s, at/1e6)
				finish := m.Assembly.Finishes[n.Finishes[k]]
				want := fr.Tint[i].Over(finish.Colour)
				for c := range 3 {
					assert.InDelta(t, want[c], got[c], 1.0/256, "%s at %.2f s", n.Name, at/1e6)
				}
				assert.InDelta(t, finish.Opacity*fr.Opacity[i], got[3], 1.0/256)
				if mode := p.doc.Materials[*primitive.Material].AlphaMode; fr.Opacity[i] < 0.99 {
					assert.Equal(t, khronos.AlphaBlend, mode, n.Name)
				} else if fr.Opacity[i] == 1 && finish.Opacity == 1 && p.doc.Nodes[i].Mesh == nil && whole(f, i, at) {
					assert.Equal(t, khronos.AlphaOpaque, mode, "%s is solid at %.2f s", n.Name, at/1e6)
				}
				compared++
				if fr.Tint[i].Amount > 0 {
					tinted++
				}
			}
		}
	}
	assert.Greater(t, compared, 5*moments)
	assert.Positive(t, tinted)
}

// whole reports whether a part is solid for a while around a time.
func whole(f *film.Film, node int, at float64) bool {
	other := f.NewFrame()
	for _, d := range []float64{-0.3e6, 0.3e6} {
		if f.At(reveal.Micros(at+d), other); other.Opacity[node] < 1 {
			return false
		}
	}
	return true
}

// What a GLB does not hold is said.
func TestWhatAGLBLosesIsSaid(t *testing.T) {
	m := demo.Pump()
	doc := demo.Teardown(m.Assembly)
	said := gltf.Lost(film.Compile(m.Assembly, doc))
	assert.Contains(t, said, "1 surface, 5 notes, 1 card, ")
	assert.Contains(t, said, "flow lines")
	for i := range doc.Steps {
		doc.Steps[i].Cues = nil
	}
	assert.Empty(t, gltf.Lost(film.Compile(m.Assembly, doc)))
}

// A reveal with parallel lines of sight has an orthographic camera that shows as much.
func TestTheGLBHasAParallelCamera(t *testing.T) {
	m := demo.Pump()
	doc := demo.Teardown(m.Assembly)
	doc.Opening.Camera.Orthographic = true
	doc.Steps = doc.Steps[:3]
	f := film.Compile(m.Assembly, doc)
	glb, err := gltf.WriteFilm(context.Background(), m, f, "Made of m; reveal r")
	require.NoError(t, err)
	p := play(t, glb)
	require.Len(t, p.doc.Cameras, 2, "shots are not parallel")
	o := p.doc.Cameras[1].Orthographic
	require.NotNil(t, o)
	s := p.pointers["/cameras/1/orthographic/ymag"]
	require.NotNil(t, s)
	fr := f.NewFrame()
	for _, at := range []float64{0, 3.3, 7.7, 20} {
		f.At(reveal.Micros(at*1e6), fr)
		_, up := film.Field(fr.Camera.FocalLength, 16.0/9)
		assert.InEpsilon(t, fr.Camera.Distance*up/1000, p.at(t, s, at)[0], 2e-4)
	}
	assert.InEpsilon(t, o.Ymag*16/9, o.Xmag, 1e-9)
}
