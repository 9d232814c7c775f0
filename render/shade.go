package render

import (
	"math"

	"slowreveal/core/look"
	"slowreveal/core/space"
)

// lights are the numbers of core/look, ready for shading, and the world's up
// in the camera's frame.
type lights struct {
	sky, ground, keyLight, fillLight [3]float32
	key, fill, up                    [3]float32
	ink, paperTop, paperFoot         [3]float32
	shadow                           float32
}

func newLights(l *look.Look, v *View) lights {
	up := v.Camera.eye.R.ApplyInverse(space.Vec{Y: 1})
	return lights{
		sky: narrow(l.Sky), ground: narrow(l.Ground), keyLight: narrow(l.KeyLight), fillLight: narrow(l.FillLight),
		key: narrow(l.Key), fill: narrow(l.Fill), up: narrow(space.TripleOf(up)),
		ink: narrow(l.Ink), paperTop: narrow(l.PaperTop), paperFoot: narrow(l.PaperFoot), shadow: float32(l.Shadow),
	}
}

func narrow(t space.Triple) [3]float32 {
	return [3]float32{float32(t[0]), float32(t[1]), float32(t[2])}
}

func dot(a, b [3]float32) float32 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

func unitOf(v [3]float32) [3]float32 {
	l := float32(math.Sqrt(float64(dot(v, v))))
	if l == 0 {
		return v
	}
	return [3]float32{v[0] / l, v[1] / l, v[2] / l}
}

// shade returns the display colour of a point with normal n, seen along the
// ray direction d (from the eye, any length). See docs/look.md.
func (l *lights) shade(s *surface, n, d [3]float32) [3]float32 {
	v := unitOf([3]float32{-d[0], -d[1], -d[2]})
	n = unitOf(n)
	nv := dot(n, v)
	if nv < 0 {
		n = [3]float32{-n[0], -n[1], -n[2]}
		nv = -nv
	}
	nk, nf := max(dot(n, l.key), 0), max(dot(n, l.fill), 0)
	ref := [3]float32{2*nv*n[0] - v[0], 2*nv*n[1] - v[1], 2*nv*n[2] - v[2]}
	shine := max(dot(ref, l.key), 0)
	for range s.squarings {
		shine *= shine
	}
	nUp, refUp := dot(n, l.up), dot(ref, l.up)
	t := min(max((refUp+0.35)/0.9, 0), 1)
	ceiling := 0.35 + 0.9*t*t*(3-2*t)
	g := 1 - min(nv, 1)
	g2 := g * g
	fresnel := g2 * g2 * g * s.satin
	var out [3]float32
	for k := range 3 {
		hemi := l.ground[k] + (l.sky[k]-l.ground[k])*(0.5+0.5*nUp)
		hemiRef := l.ground[k] + (l.sky[k]-l.ground[k])*(0.5+0.5*refUp)
		env := hemiRef*ceiling + (hemi-hemiRef*ceiling)*s.rough
		f := s.f0[k] + (1-s.f0[k])*fresnel
		c := s.diffuse[k]*(hemi+l.keyLight[k]*nk+l.fillLight[k]*nf) + f*(env*1.25+l.keyLight[k]*shine*s.shineGain)
		out[k] = encodeSRGB(c)
	}
	return out
}

const curveSize = 4096

// curve is the sRGB transfer function (IEC 61966-2-1), sampled.
var curve = func() (t [curveSize + 2]float32) {
	for i := range t {
		v := float64(i) / curveSize
		if v <= 0.0031308 {
			t[i] = float32(12.92 * v)
		} else {
			t[i] = float32(1.055*math.Pow(v, 1/2.4) - 0.055)
		}
	}
	return t
}()

func encodeSRGB(c float32) float32 {
	if c >= 1 {
		return 1
	}
	if c <= 0 {
		return 0
	}
	x := c * curveSize
	i := int(x)
	return curve[i] + (curve[i+1]-curve[i])*(x-float32(i))
}

// surfaceAt returns the finish and the normal (in the camera's frame) of
// triangle `id` of a part where the ray d from the eye meets its plane.
func (r *Renderer) surfaceAt(part, id int32, d [3]float32) (*surface, [3]float32) {
	p, seen := &r.scene.parts[part], &r.seen[part]
	shape := r.scene.shapes[p.shape]
	t := int(id) - p.first
	i, j, k := 3*shape.Triangles[3*t], 3*shape.Triangles[3*t+1], 3*shape.Triangles[3*t+2]
	a := [3]float32(seen.points[i : i+3])
	e1 := [3]float32{seen.points[j] - a[0], seen.points[j+1] - a[1], seen.points[j+2] - a[2]}
	e2 := [3]float32{seen.points[k] - a[0], seen.points[k+1] - a[1], seen.points[k+2] - a[2]}
	// Barycentric coordinates of the ray through the eye (Möller, Trumbore 1997).
	h := cross(d, e2)
	det := dot(e1, h)
	u, v := float32(1.0/3), float32(1.0/3)
	if det != 0 {
		s := [3]float32{-a[0], -a[1], -a[2]}
		q := cross(s, e1)
		u, v = dot(s, h)/det, dot(d, q)/det
		u, v = min(max(u, 0), 1), min(max(v, 0), 1)
	}
	w := 1 - u - v
	n := shape.Normals
	own := space.Vec{
		X: float64(w*n[i] + u*n[j] + v*n[k]),
		Y: float64(w*n[i+1] + u*n[j+1] + v*n[k+1]),
		Z: float64(w*n[i+2] + u*n[j+2] + v*n[k+2]),
	}
	in := seen.toCamera.R.Apply(own)
	return &p.finishes[patchOf(shape.Patches, t)], [3]float32{float32(in.X), float32(in.Y), float32(in.Z)}
}

func cross(a, b [3]float32) [3]float32 {
	return [3]float32{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}
