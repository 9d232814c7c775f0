package fastener

import (
	"fmt"
	"math"
	"strings"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Kind says what a fastener is.
type Kind string

// The kinds of fasteners.
const (
	Screw   Kind = "screw"
	Nut     Kind = "nut"
	Washer  Kind = "washer"
	Pin     Kind = "pin"
	Bearing Kind = "bearing"
)

// Guess is what a shape seems to be. It is never more than a guess: Sure says
// how good, Why from what.
type Guess struct {
	Kind Kind `json:"kind"`
	// Size is the likely size: a metric thread ("M4"), "8 × 22 × 7" of a
	// bearing, a diameter; empty when unknown.
	Size string `json:"size,omitempty"`
	// Standard is that whose measures it has, such as "ISO 4762"; empty where they are of none that is known.
	Standard string `json:"standard,omitempty"`
	// Diameter is the nominal diameter, mm; Lead the advance a turn, mm, 0
	// without a thread; Length that of the shank below the head.
	Diameter float64 `json:"diameter"`
	Lead     float64 `json:"lead,omitempty"`
	Length   float64 `json:"length,omitempty"`
	// Origin and Out are a point of the axis and the direction out of the seat
	// (of a screw from its tip to its head), in the shape's frame.
	Origin space.Vec3 `json:"origin"`
	Out    space.Vec3 `json:"out"`
	// Tool is what it is undone with, by the tables of its standard; empty when unknown.
	Tool       string  `json:"tool,omitempty"`
	Confidence float64 `json:"confidence"` // 0…1
	Why        string  `json:"why"`
}

// maxSize bounds what counts as a fastener, mm: larger things are parts.
const maxSize = 200

// Recognise guesses what a shape is from its features and, as a hint only, its
// name. It returns nil when it seems to be no fastener.
func Recognise(s *solid.Shape, f *solid.Features, name string) *Guess {
	if size := s.Bounds.Size(); max(size.X, size.Y, size.Z) > maxSize {
		return nil
	}
	b := bodyOf(s, f)
	if b == nil {
		return nil
	}
	hint := strings.ToLower(name)
	var g *Guess
	for _, try := range []func(*body) *Guess{bearing, nut, washer, screw, pin} {
		if found := try(b); found != nil && (g == nil || found.Confidence > g.Confidence) {
			g = found
		}
	}
	if g == nil {
		return nil
	}
	for kind, words := range hints {
		for _, w := range words {
			if !strings.Contains(hint, w) {
				continue
			}
			if kind == g.Kind {
				g.Confidence, g.Why = g.Confidence+0.25, g.Why+"; its name says so too"
			} else {
				g.Confidence, g.Why = g.Confidence*0.6, g.Why+fmt.Sprintf("; but its name says %s", w)
			}
			return confidence(g)
		}
	}
	return confidence(g)
}

// mostConfident is how sure a guess can be: it stays one.
const mostConfident = 0.97

// confidence lets only guesses through that are better than chance.
func confidence(g *Guess) *Guess {
	g.Confidence = min(math.Round(g.Confidence*100)/100, mostConfident)
	if g.Confidence < 0.4 {
		return nil
	}
	return g
}

// hints are words in names. A word for another kind makes a guess less sure.
var hints = map[Kind][]string{
	Screw: {
		"screw",
		"bolt",
		"iso 4762",
		"iso 4014",
		"iso 4017",
		"iso 7046",
		"iso 10642",
		"din 912",
		"din 933",
		"schraube",
	},
	Nut:     {"nut", "iso 4032", "din 934", "mutter"},
	Washer:  {"washer", "iso 7089", "din 125", "scheibe"},
	Pin:     {"pin", "dowel", "iso 8734", "iso 2338"},
	Bearing: {"bearing", "lager"},
}

// body is a shape seen along its main axis.
type body struct {
	axis       space.Vec
	origin     space.Vec // on the axis
	low, high  float64   // extent along the axis, from the origin
	outer      []ring    // cylinders around the axis, seen from outside
	holes      []ring    // and from inside
	round      float64   // share of the area that is turned about the axis
	hexFlats   float64   // width across the flats of a hexagon outside, 0 without
	outerWidth float64   // largest diameter
}

// ring is one cylinder around the axis.
type ring struct {
	radius, low, high float64
}

func (r ring) length() float64 { return r.high - r.low }

// bodyOf looks at a shape along the axis around which most of its cylinders'
// area lies; nil without one.
func bodyOf(s *solid.Shape, f *solid.Features) *body {
	var main *solid.Feature
	best := 0.0
	for i := range f.List {
		c := &f.List[i]
		if c.Kind != solid.Cylinder || c.Turn < 0.9 {
			continue
		}
		sum := 0.0
		for k := range f.List {
			if d := &f.List[k]; d.Kind == solid.Cylinder && d.Turn > 0.9 && coaxial(c, d) {
				sum += d.Area
			}
		}
		if sum > best {
			main, best = c, sum
		}
	}
	if main == nil {
		return nil
	}
	b := &body{axis: main.Axis.Vec(), origin: main.Centre.Vec(), low: math.Inf(1), high: math.Inf(-1)}
	for i := range f.List {
		c := &f.List[i]
		if c.Kind != solid.Cylinder || c.Turn < 0.9 || !coaxial(main, c) {
			continue
		}
		mid := r3.Dot(b.axis, r3.Sub(c.Centre.Vec(), b.origin))
		r := ring{c.Radius, mid - c.Length/2, mid + c.Length/2}
		if c.Hole {
			b.holes = append(b.holes, r)
		} else {
			b.outer = append(b.outer, r)
		}
	}
	b.measure(s)
	b.hexFlats = hexagon(f, b)
	return b
}

func coaxial(a, b *solid.Feature) bool {
	d := r3.Sub(b.Centre.Vec(), a.Centre.Vec())
	off := r3.Norm(r3.Cross(a.Axis.Vec(), d))
	return math.Abs(r3.Dot(a.Axis.Vec(), b.Axis.Vec())) > 0.9998 && off < 0.02*(a.Radius+b.Radius)
}

// measure finds the extent along the axis and how much is turned about it: where
// the normal lies in the plane of the axis and the place.
func (b *body) measure(s *solid.Shape) {
	total, turned := 0.0, 0.0
	for t := 0; t < len(s.Triangles); t += 3 {
		tri := corners(s, t)
		n, area := tri.Normal()
		mid := r3.Scale(1.0/3, r3.Add(tri[0], r3.Add(tri[1], tri[2])))
		r := r3.Sub(mid, b.origin)
		r = r3.Sub(r, r3.Scale(r3.Dot(b.axis, r), b.axis))
		total += area
		if l := r3.Norm(r); l < 1e-9 || math.Abs(r3.Dot(n, r3.Cross(b.axis, r)))/l < 0.2 {
			turned += area
		}
		for _, v := range tri {
			d := r3.Sub(v, b.origin)
			along := r3.Dot(b.axis, d)
			b.low, b.high = min(b.low, along), max(b.high, along)
			b.outerWidth = max(b.outerWidth, 2*r3.Norm(r3.Cross(b.axis, d)))
		}
	}
	b.round = turned / total
}

func corners(s *solid.Shape, t int) solid.Triangle {
	var tri solid.Triangle
	for k := range 3 {
		v := s.Triangles[t+k]
		tri[k] = space.Vec{X: float64(s.Positions[3*v]), Y: float64(s.Positions[3*v+1]), Z: float64(s.Positions[3*v+2])}
	}
	return tri
}

// hexagon returns the width across the flats of six planes around the axis that
// look outwards, 0 without.
func hexagon(f *solid.Features, b *body) float64 {
	var angles []float64
	width, n := 0.0, 0
	u := r3.Unit(r3.Cross(b.axis, space.Vec{X: 0.3, Y: 0.5, Z: 0.8}))
	v := r3.Cross(b.axis, u)
	for i := range f.List {
		p := &f.List[i]
		normal := p.Axis.Vec()
		if p.Kind != solid.Plane || math.Abs(r3.Dot(normal, b.axis)) > 0.02 {
			continue
		}
		d := r3.Dot(normal, r3.Sub(p.Centre.Vec(), b.origin))
		if d <= 0 || width > 0 && math.Abs(2*d-width) > 0.02*width {
			continue
		}
		width = 2 * d
		angles = append(angles, math.Atan2(r3.Dot(normal, v), r3.Dot(normal, u)))
		n++
	}
	if n != 6 {
		return 0
	}
	for _, a := range angles { // all at multiples of 60° from the first
		if r := math.Abs(math.Remainder(a-angles[0], math.Pi/3)); r > 0.03 {
			return 0
		}
	}
	return width
}

func (b *body) length() float64 { return b.high - b.low }

// guess fills in what all kinds share.
func (b *body) guess(k Kind, out float64, sure float64, why string, args ...any) *Guess {
	return &Guess{
		Kind:       k,
		Origin:     space.Vec3Of(b.origin),
		Out:        space.Vec3Of(r3.Scale(out, b.axis)),
		Confidence: sure,
		Why:        fmt.Sprintf(why, args...),
	}
}
