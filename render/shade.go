package render

import (
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/look"
	"slowreveal/core/space"
)

// lights are the numbers of core/look, ready for shading, and the world's up
// in the camera's frame.
type lights struct {
	skyColour, groundColour, keyLight, fillLight [3]float32
	key, fill, up                                [3]float32
	ink, backgroundTop, backgroundBottom         [3]float32
	dark                                         [3]float32 // what the shadow goes to
	shadow                                       float32
	perspective                                  float32 // 1, or 0 where all rays are parallel
	wide                                         wideLights
}

// wideLights are the same numbers for the vector loops: each eight times.
type wideLights struct {
	key, fill, up                              [3][lanes]float32
	groundColour, skyLess, keyLight, fillLight [3][lanes]float32 // skyLess is the sky's less the floor's
	perspective                                [lanes]float32
}

func (l *lights) widen() {
	spread(&l.wide.perspective, l.perspective)
	for k := range 3 {
		spread(&l.wide.key[k], l.key[k])
		spread(&l.wide.fill[k], l.fill[k])
		spread(&l.wide.up[k], l.up[k])
		spread(&l.wide.groundColour[k], l.groundColour[k])
		spread(&l.wide.skyLess[k], l.skyColour[k]-l.groundColour[k])
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
		skyColour: narrow(
			l.SkyColour,
		), groundColour: narrow(l.GroundColour), keyLight: narrow(l.KeyLight), fillLight: narrow(l.FillLight),
		key: narrow(l.Key), fill: narrow(l.Fill), up: narrow(space.Vec3Of(up)),
		ink:              narrow(l.Ink),
		backgroundTop:    narrow(l.BackgroundTop),
		backgroundBottom: narrow(l.BackgroundBottom),
		dark:             narrow(l.Ink),
		shadow:           float32(l.Shadow),
		perspective:      1,
	}
	if v.Camera.orthographic {
		out.perspective = 0
	}
	out.widen()
	return out
}

func narrow(t space.Vec3) [3]float32 {
	return [3]float32{float32(t[0]), float32(t[1]), float32(t[2])}
}

// lightPlain finds the display colours of points from … to−1, which have one finish, background aside. See
// docs/look.md. light_amd64.s does the same, in the same order, to eight points at once.
func lightPlain(p *shadingSamples, from, to int, s *surface, l *lights) {
	for i := from; i < to; i++ {
		p.meet(i, s, l)
	}
	for k := range p.rgb {
		p.colour(k, from, to, s, l)
	}
}

// What points.met is of a light or the surroundings.
const (
	metKey = iota // by how much the surface looks at it
	metFill
	metUp       // how much of the sky there is above
	metMirrored // and where it mirrors
	metCeiling  // how bright it is there
	metFresnel
	metShine
	metNumbers
)

// meet finds how much of each light meets a point with a normal of any length, seen along the ray
// (dx, dy, −1) from the eye.
func (p *shadingSamples) meet(i int, s *surface, l *lights) {
	nx, ny, nz := p.nx[i], p.ny[i], p.nz[i]
	dx, dy := p.dx[i]*l.perspective, p.dy[i]*l.perspective
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
	mirroredKey := shine
	refUp := twice*nUp - (l.up[2]-l.up[0]*dx-l.up[1]*dy)*near
	if shine < s.denormalFloor {
		shine = s.denormalFloor
	}
	for range s.shininessLog2 {
		shine *= shine
	}
	mirroredFill := twice*nf - (l.fill[2]-l.fill[0]*dx-l.fill[1]*dy)*near
	bright := float32(room.Floor) + float32(room.Ceiling)*stepUp(refUp, room.From, room.Wide)
	bright += float32(room.KeyBox) * stepUp(mirroredKey, room.KeyFrom, room.KeyWide)
	bright += float32(room.FillBox) * stepUp(mirroredFill, room.FillFrom, room.FillWide)
	g := positive(1 - nv)
	g2 := g * g
	p.met[metKey][i], p.met[metFill][i] = positive(nk), positive(nf)
	p.met[metUp][i], p.met[metMirrored][i] = 0.5+0.5*nUp, 0.5+0.5*refUp
	p.met[metCeiling][i] = bright
	p.met[metFresnel][i] = g2 * g2 * g * s.smoothness
	p.met[metShine][i] = shine * s.shineGain
}

// room is what surfaces mirror.
var room = look.Default.Room

// stepUp is 0 up to a step, 1 beyond it, and smooth between.
func stepUp(x float32, from, wide float64) float32 {
	t := share((x + float32(-from)) * float32(1/wide))
	return t * t * (3 - (t + t))
}

// colour finds one of the display values of points, given what meets them.
func (p *shadingSamples) colour(k, from, to int, s *surface, l *lights) {
	ground, sky, key, fill := l.groundColour[k], l.skyColour[k]-l.groundColour[k], l.keyLight[k], l.fillLight[k]
	f0, f1, diffuse, rough := s.f0[k], 1-s.f0[k], s.diffuse[k], s.rough
	out := &p.rgb[k]
	for i := from; i < to; i++ {
		under := ground + sky*p.met[metUp][i]
		mirrored := (ground + sky*p.met[metMirrored][i]) * p.met[metCeiling][i]
		f := f0 + f1*p.met[metFresnel][i]
		out[i] = encodeSRGB(
			diffuse*(under+key*p.met[metKey][i]+fill*p.met[metFill][i]) + f*((mirrored+(under-mirrored)*rough)*look.Mirror+key*p.met[metShine][i]),
		)
	}
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

// The sRGB transfer function (IEC 61966-2-1) of light that is held back by the look's shoulder is taken as straight
// between numbers whose first bits are the same, 16 in each octave from 2⁻⁹ to 4: within 0.1/255. Below 2⁻⁹ it is
// straight, and beyond 4 it ends.
const (
	curveBits   = 23 - 4 // that pieces of the curve do not look at, of a float's 32
	curveFirst  = (127-9)<<4 - 1
	curvePieces = 129<<4 - curveFirst + 1
	floatMost   = 129 << 23 // the bits of 4
)

// curve is its pieces: what they have at 0, and how they rise.
var curve = func() (of [curvePieces]struct{ at, rise float32 }) {
	of[0].rise, of[curvePieces-1].at = 12.92, float32(shown(pieceFrom(curvePieces-1)))
	for i := 1; i < curvePieces-1; i++ {
		from, to := pieceFrom(i), pieceFrom(i+1)
		rise := (shown(to) - shown(from)) / (to - from)
		of[i].at, of[i].rise = float32(shown(from)-rise*from), float32(rise)
	}
	return of
}()

// shown is the display value of linear light.
func shown(c float64) float64 { return assembly.Display(look.Default.Shoulder(c)) }

// pieceFrom is where a piece of the curve begins.
func pieceFrom(i int) float64 {
	return float64(math.Float32frombits(uint32(curveFirst+i) << curveBits))
}

// encodeSRGB returns the display value of linear light, held to 0 … 4.
func encodeSRGB(c float32) float32 {
	held := min(max(int32(math.Float32bits(c)), 0), floatMost) // as whole numbers floats have the same order
	piece := &curve[max(held>>curveBits-curveFirst, 0)]
	return piece.at + math.Float32frombits(uint32(held))*piece.rise
}
