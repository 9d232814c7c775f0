package render

import (
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
	perspective                      float32 // 1, or 0 where all rays are parallel
	wide                             wideLights
}

// wideLights are the same numbers for the vector loops: each eight times.
type wideLights struct {
	key, fill, up                        [3][lanes]float32
	ground, skyLess, keyLight, fillLight [3][lanes]float32 // skyLess is the sky's less the ground's
	perspective                          [lanes]float32
}

func (l *lights) widen() {
	spread(&l.wide.perspective, l.perspective)
	for k := range 3 {
		spread(&l.wide.key[k], l.key[k])
		spread(&l.wide.fill[k], l.fill[k])
		spread(&l.wide.up[k], l.up[k])
		spread(&l.wide.ground[k], l.ground[k])
		spread(&l.wide.skyLess[k], l.sky[k]-l.ground[k])
		spread(&l.wide.keyLight[k], l.keyLight[k])
		spread(&l.wide.fillLight[k], l.fillLight[k])
	}
}

func spread(out *[lanes]float32, v float32) {
	for i := range out {
		out[i] = v
	}
}

func newLights(l *look.Look, v *View) lights {
	up := v.Camera.eye.R.ApplyInverse(space.Vec{Y: 1})
	out := lights{
		sky: narrow(l.Sky), ground: narrow(l.Ground), keyLight: narrow(l.KeyLight), fillLight: narrow(l.FillLight),
		key: narrow(l.Key), fill: narrow(l.Fill), up: narrow(space.TripleOf(up)),
		ink: narrow(l.Ink), paperTop: narrow(l.PaperTop), paperFoot: narrow(l.PaperFoot), shadow: float32(l.Shadow), perspective: 1,
	}
	if v.Camera.parallel {
		out.perspective = 0
	}
	out.widen()
	return out
}

func narrow(t space.Triple) [3]float32 {
	return [3]float32{float32(t[0]), float32(t[1]), float32(t[2])}
}

// shade returns the display colour of a point with a normal of any length, seen along
// the ray (dx, dy, −1) from the eye. See docs/look.md. light_amd64.s does the same, in
// the same order, to eight points at once.
func (l *lights) shade(s *surface, nx, ny, nz, dx, dy float32) (red, green, blue float32) {
	dx, dy = dx*l.perspective, dy*l.perspective
	k := 1 / root(max(nx*nx+ny*ny+nz*nz, tiny))
	facing := nz - nx*dx - ny*dy // the way to the eye is −dx, −dy, 1
	if facing < 0 {
		k = -k
	}
	near := 1 / root(dx*dx+dy*dy+1)
	nv := facing * near * k
	nk := (nx*l.key[0] + ny*l.key[1] + nz*l.key[2]) * k
	nf := (nx*l.fill[0] + ny*l.fill[1] + nz*l.fill[2]) * k
	nUp := (nx*l.up[0] + ny*l.up[1] + nz*l.up[2]) * k
	// The eye's mirror image is 2·nv·n − v; it is only ever multiplied by something.
	twice := nv + nv
	shine := twice*nk - (l.key[2]-l.key[0]*dx-l.key[1]*dy)*near
	refUp := twice*nUp - (l.up[2]-l.up[0]*dx-l.up[1]*dy)*near
	nk, nf = positive(nk), positive(nf)
	if shine < s.dullest {
		shine = s.dullest
	}
	for range s.squarings {
		shine *= shine
	}
	t := share((refUp + 0.35) * (1 / 0.9))
	ceiling := 0.35 + 0.9*(t*t*(3-2*t))
	g := positive(1 - nv)
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
		out[k] += (s.sheet[k] - out[k]) * s.paper
	}
	return out[0], out[1], out[2]
}

func positive(x float32) float32 {
	if x < 0 {
		return 0
	}
	return x
}

func share(x float32) float32 {
	if x < 0 {
		return 0
	}
	if x > 1 {
		return 1
	}
	return x
}

// curve is the sRGB transfer function (IEC 61966-2-1) above its straight beginning,
// as a polynomial of the root of the light: within 0.09/255.
var curve = [6]float32{-0.04010954065850856, 1.5179496131666026, -1.4027302337908114, 2.031561642428382, -1.6236463782734325, 0.5172986936605783}

const (
	straight = 0.0031308 // up to here the curve is a line
	steep    = 12.92
)

// encodeSRGB returns the display value of linear light, held to 0 … 1.
func encodeSRGB(c float32) float32 {
	c = share(c)
	t := root(c)
	v := curve[0] + t*(curve[1]+t*(curve[2]+t*(curve[3]+t*(curve[4]+t*curve[5]))))
	if c <= straight {
		v = steep * c
	}
	if v > 1 {
		v = 1
	}
	return v
}
