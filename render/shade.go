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
	parallel                         bool
}

func newLights(l *look.Look, v *View) lights {
	up := v.Camera.eye.R.ApplyInverse(space.Vec{Y: 1})
	return lights{
		sky: narrow(l.Sky), ground: narrow(l.Ground), keyLight: narrow(l.KeyLight), fillLight: narrow(l.FillLight),
		key: narrow(l.Key), fill: narrow(l.Fill), up: narrow(space.TripleOf(up)),
		ink: narrow(l.Ink), paperTop: narrow(l.PaperTop), paperFoot: narrow(l.PaperFoot), shadow: float32(l.Shadow), parallel: v.Camera.parallel,
	}
}

func narrow(t space.Triple) [3]float32 {
	return [3]float32{float32(t[0]), float32(t[1]), float32(t[2])}
}

func dot(a, b [3]float32) float32 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

// shade returns the display colour of a point with normal n, seen along the
// ray direction d (from the eye, any length). See docs/look.md.
func (l *lights) shade(s *surface, n, d [3]float32) [3]float32 {
	// Written out for the three colours: this is where most of a picture's time goes.
	vx, vy, vz := float32(0), float32(0), float32(1)
	if !l.parallel {
		k := 1 / float32(math.Sqrt(float64(d[0]*d[0]+d[1]*d[1]+d[2]*d[2])))
		vx, vy, vz = -d[0]*k, -d[1]*k, -d[2]*k
	}
	nx, ny, nz := n[0], n[1], n[2]
	if k := nx*nx + ny*ny + nz*nz; k > 0 {
		k = 1 / float32(math.Sqrt(float64(k)))
		nx, ny, nz = nx*k, ny*k, nz*k
	}
	nv := nx*vx + ny*vy + nz*vz
	if nv < 0 {
		nx, ny, nz, nv = -nx, -ny, -nz, -nv
	}
	rx, ry, rz := 2*nv*nx-vx, 2*nv*ny-vy, 2*nv*nz-vz
	nk, nf := nx*l.key[0]+ny*l.key[1]+nz*l.key[2], nx*l.fill[0]+ny*l.fill[1]+nz*l.fill[2]
	if nk < 0 {
		nk = 0
	}
	if nf < 0 {
		nf = 0
	}
	shine := rx*l.key[0] + ry*l.key[1] + rz*l.key[2]
	if shine < 0 {
		shine = 0
	}
	for range s.squarings {
		shine *= shine
	}
	nUp, refUp := nx*l.up[0]+ny*l.up[1]+nz*l.up[2], rx*l.up[0]+ry*l.up[1]+rz*l.up[2]
	t := (refUp + 0.35) * (1 / 0.9)
	if t < 0 {
		t = 0
	} else if t > 1 {
		t = 1
	}
	ceiling := 0.35 + 0.9*t*t*(3-2*t)
	g := 1 - nv
	if g < 0 {
		g = 0
	}
	g2 := g * g
	fresnel := g2 * g2 * g * s.satin
	hemi, hemiRef := 0.5+0.5*nUp, 0.5+0.5*refUp
	gain := shine * s.shineGain
	var out [3]float32
	for k := range 3 {
		ground, sky, key := l.ground[k], l.sky[k]-l.ground[k], l.keyLight[k]
		under := ground + sky*hemi
		mirrored := (ground + sky*hemiRef) * ceiling
		f := s.f0[k] + (1-s.f0[k])*fresnel
		c := s.diffuse[k]*(under+key*nk+l.fillLight[k]*nf) + f*((mirrored+(under-mirrored)*s.rough)*1.25+key*gain)
		out[k] = encodeSRGB(c)
	}
	if s.paper > 0 {
		for k := range 3 {
			out[k] += (l.paperTop[k] - out[k]) * s.paper
		}
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

// facet is a triangle of a part, ready to be met by rays from the eye: all
// vectors are in the camera's frame.
type facet struct {
	id     int32
	finish *surface
	e1, e2 [3]float32
	s, q   [3]float32 // −corner, s × e1
	// The normal is n + u·du + v·dv.
	n, du, dv [3]float32
}

// facetOf returns the facet of a triangle; neighbouring pixels mostly ask for
// the same one, so the last is kept.
func (r *Renderer) facetOf(t *tile, part, id int32) *facet {
	f := &t.last
	if f.id == id && f.finish != nil {
		return f
	}
	p, seen := &r.scene.parts[part], &r.seen[part]
	shape := r.scene.shapes[p.shape]
	at := int(id) - p.first
	i, j, k := 3*shape.Triangles[3*at], 3*shape.Triangles[3*at+1], 3*shape.Triangles[3*at+2]
	a := [3]float32(seen.points[i : i+3])
	*f = facet{id: id, finish: &seen.finishes[patchOf(shape.Patches, at)], s: [3]float32{-a[0], -a[1], -a[2]},
		e1: [3]float32{seen.points[j] - a[0], seen.points[j+1] - a[1], seen.points[j+2] - a[2]},
		e2: [3]float32{seen.points[k] - a[0], seen.points[k+1] - a[1], seen.points[k+2] - a[2]}}
	f.q = cross(f.s, f.e1)
	f.n = seen.turned(shape.Normals[i : i+3])
	n1, n2 := seen.turned(shape.Normals[j:j+3]), seen.turned(shape.Normals[k:k+3])
	for c := range 3 {
		f.du[c], f.dv[c] = n1[c]-f.n[c], n2[c]-f.n[c]
	}
	return f
}

// turned returns a normal of the part's own frame in the camera's.
func (s *projected) turned(n []float32) [3]float32 {
	m := &s.toCamera.R
	x, y, z := float64(n[0]), float64(n[1]), float64(n[2])
	return [3]float32{float32(m[0]*x + m[1]*y + m[2]*z), float32(m[3]*x + m[4]*y + m[5]*z), float32(m[6]*x + m[7]*y + m[8]*z)}
}

// normal returns the normal where the ray d from the eye meets the facet's
// plane (barycentric coordinates after Möller, Trumbore 1997), held inside it.
func (f *facet) normal(d [3]float32) [3]float32 {
	h := cross(d, f.e2)
	u, v := float32(1.0/3), float32(1.0/3)
	if det := dot(f.e1, h); det != 0 {
		u, v = dot(f.s, h)/det, dot(d, f.q)/det
		if u < 0 {
			u = 0
		} else if u > 1 {
			u = 1
		}
		if v < 0 {
			v = 0
		} else if v > 1 {
			v = 1
		}
	}
	return [3]float32{f.n[0] + u*f.du[0] + v*f.dv[0], f.n[1] + u*f.du[1] + v*f.dv[1], f.n[2] + u*f.du[2] + v*f.dv[2]}
}

func cross(a, b [3]float32) [3]float32 {
	return [3]float32{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}
