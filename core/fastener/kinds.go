package fastener

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// Tables of published sizes, mm. All from memory of the named standards.

// nuts: width across flats and height of ISO 4032.
var nuts = map[string][2]float64{
	"M2":   {4, 1.6},
	"M2.5": {5, 2},
	"M3":   {5.5, 2.4},
	"M4":   {7, 3.2},
	"M5":   {8, 4.7},
	"M6":   {10, 5.2},
	"M8":   {13, 6.8},
	"M10":  {16, 8.4},
	"M12":  {18, 10.8},
}

// washers: hole, outside and height of ISO 7089.
var washers = map[string][3]float64{
	"M2":   {2.2, 5, 0.3},
	"M2.5": {2.7, 6, 0.5},
	"M3":   {3.2, 7, 0.5},
	"M4":   {4.3, 9, 0.8},
	"M5":   {5.3, 10, 1},
	"M6":   {6.4, 12, 1.6},
	"M8":   {8.4, 16, 1.6},
	"M10":  {10.5, 20, 2},
	"M12":  {13, 24, 2.5},
}

// heads: diameters of ISO 4762; the head is as high as the thread is wide.
var heads = map[string]float64{
	"M1.6": 3,
	"M2":   3.8,
	"M2.5": 4.5,
	"M3":   5.5,
	"M4":   7,
	"M5":   8.5,
	"M6":   10,
	"M8":   13,
	"M10":  16,
	"M12":  18,
	"M16":  24,
}

// bearings: bore, outside and width of ISO 15.
var bearings = [][3]float64{
	{3, 10, 4},
	{4, 13, 5},
	{5, 16, 5},
	{6, 19, 6},
	{7, 22, 7},
	{8, 22, 7},
	{9, 24, 7},
	{10, 26, 8},
	{12, 28, 8},
	{15, 32, 9},
	{17, 35, 10},
	{20, 42, 12},
	{25, 47, 12},
	{10, 30, 9},
	{12, 32, 10},
	{15, 35, 11},
	{17, 40, 12},
	{20, 47, 14},
	{10, 19, 5},
	{12, 21, 5},
	{15, 24, 5},
	{17, 26, 5},
	{20, 32, 7},
}

// threadOf returns the thread whose nominal diameter is within 4 % of d, and how
// well it fits, 0…1.
func threadOf(d float64) (Thread, float64) {
	best, fit := Thread{}, 0.0
	for _, t := range Coarse {
		if f := 1 - math.Abs(d-t.Diameter)/(0.04*t.Diameter); f > fit {
			best, fit = t, f
		}
	}
	return best, fit
}

// screw: a head that is wider than the shank, at one end.
func screw(b *body) *Guess {
	if len(b.outer) == 0 || b.length() < 2 {
		return nil
	}
	shank := slices.MaxFunc(
		b.outer,
		func(x, y ring) int { return cmp.Compare(x.length()/x.radius, y.length()/y.radius) },
	)
	d := 2 * shank.radius
	headWidth := max(b.hexFlats, 0)
	for _, r := range b.outer {
		if r.radius > 1.2*shank.radius {
			headWidth = max(headWidth, 2*r.radius)
		}
	}
	if b.hexFlats == 0 && headWidth == 0 && b.outerWidth > 1.5*d { // a countersunk head has a cone only
		headWidth = b.outerWidth
	}
	if headWidth < 1.25*d || headWidth > 3*d || shank.length() < 0.8*d {
		return nil
	}
	for _, h := range b.holes { // drilled through: no screw
		if h.low <= b.low+0.01*b.length() && h.high >= b.high-0.01*b.length() {
			return nil
		}
	}
	below, above := shank.low-b.low, b.high-shank.high
	out, headHeight := 1.0, above
	if below > above {
		out, headHeight = -1, below
	}
	if headHeight > 1.6*d || min(below, above) > 0.6*d+1 {
		return nil
	}
	thread, fit := threadOf(d)
	g := b.guess(Screw, out, 0.55+0.2*fit, "a shank of %.2f mm with a head of %.1f mm at one end", d, headWidth)
	g.Diameter, g.Length = d, b.length()-headHeight
	if fit > 0 {
		g.Size, g.Diameter, g.Lead = thread.Name, thread.Diameter, thread.Lead
		g.Why += fmt.Sprintf("; the shank fits %s", thread.Name)
	}
	if w, ok := heads[thread.Name]; ok && fit > 0 && math.Abs(w-headWidth) < 0.06*w &&
		math.Abs(headHeight-thread.Diameter) < 0.12*thread.Diameter {
		g.Confidence, g.Why, g.Tool = g.Confidence+0.15, g.Why+", the head ISO 4762", hexKey(thread.Name)
		g.Standard = "ISO 4762"
	} else if n, ok := nuts[thread.Name]; ok && b.hexFlats > 0 && math.Abs(n[0]-b.hexFlats) < 0.03*n[0] {
		g.Confidence, g.Why, g.Tool = g.Confidence+0.15, g.Why+", the hexagon its wrench", wrench(b.hexFlats)
	}
	return g
}

// nut: a hexagon with a hole through it.
func nut(b *body) *Guess {
	if b.hexFlats == 0 || len(b.holes) == 0 || b.length() > b.hexFlats*1.2 {
		return nil
	}
	hole := slices.MinFunc(b.holes, func(x, y ring) int { return cmp.Compare(x.radius, y.radius) })
	if hole.length() < 0.5*b.length() {
		return nil
	}
	g := b.guess(Nut, 1, 0.6, "a hexagon of %.1f mm with a hole of %.2f mm", b.hexFlats, 2*hole.radius)
	g.Diameter = 2 * hole.radius
	for _, t := range Coarse {
		n, ok := nuts[t.Name]
		// The hole is drawn as wide as the thread or as its core, d − 1.0825·P.
		if !ok || g.Diameter < t.Diameter-1.3*t.Lead || g.Diameter > 1.05*t.Diameter ||
			math.Abs(n[0]-b.hexFlats) > 0.03*n[0] {
			continue
		}
		g.Size, g.Diameter, g.Lead, g.Confidence, g.Tool = t.Name, t.Diameter, t.Lead, 0.8, wrench(n[0])
		g.Why += fmt.Sprintf("; the flats fit %s", t.Name)
		if math.Abs(n[1]-b.length()) < 0.05*n[1] {
			g.Confidence, g.Why, g.Standard = 0.9, g.Why+", the height ISO 4032", "ISO 4032"
		}
		break
	}
	return g
}

// washer: a thin ring.
func washer(b *body) *Guess {
	inner, outer := b.bore()
	if inner == 0 || b.round < 0.95 || !b.roundOutside() || b.length() > 0.22*outer || outer < 1.3*inner {
		return nil
	}
	g := b.guess(Washer, 1, 0.4, "a ring of %.1f × %.1f × %.2f mm", inner, outer, b.length())
	g.Diameter = inner
	for size, w := range washers {
		if math.Abs(w[0]-inner) < 0.04*w[0] && math.Abs(w[1]-outer) < 0.04*w[1] {
			g.Size, g.Confidence = size, 0.8
			g.Why += fmt.Sprintf("; it fits %s (ISO 7089)", size)
			if math.Abs(w[2]-b.length()) < 0.1*w[2] {
				g.Confidence, g.Standard = 0.9, "ISO 7089"
			}
		}
	}
	return g
}

// bore returns the narrowest hole through the whole body and the widest outside,
// 0 without a hole.
func (b *body) bore() (inner, outer float64) {
	narrow, from, to := math.Inf(1), math.Inf(1), math.Inf(-1)
	for _, h := range b.holes {
		narrow, from, to = min(narrow, 2*h.radius), min(from, h.low), max(to, h.high)
	}
	if len(b.holes) == 0 || to-from < 0.7*b.length() {
		return 0, b.outerWidth
	}
	return narrow, b.outerWidth
}

// roundOutside reports whether the widest outside is a cylinder about the axis.
func (b *body) roundOutside() bool {
	return slices.ContainsFunc(b.outer, func(r ring) bool { return 2*r.radius > 0.97*b.outerWidth })
}

// bearing: bore, outside and width of the tables.
func bearing(b *body) *Guess {
	inner, outer := b.bore()
	if inner == 0 || b.round < 0.9 || !b.roundOutside() {
		return nil
	}
	for _, t := range bearings {
		if math.Abs(t[0]-inner) < 0.01*t[0]+0.02 && math.Abs(t[1]-outer) < 0.01*t[1] &&
			math.Abs(t[2]-b.length()) < 0.02*t[2] {
			g := b.guess(Bearing, 1, 0.85, "bore, outside and width are %g × %g × %g (ISO 15)", t[0], t[1], t[2])
			g.Size, g.Diameter = fmt.Sprintf("%g × %g × %g", t[0], t[1], t[2]), t[0]
			g.Standard = "ISO 15"
			return g
		}
	}
	return nil
}

// pin: one cylinder, longer than wide, nothing else.
func pin(b *body) *Guess {
	if len(b.outer) != 1 || len(b.holes) != 0 || b.round < 0.98 {
		return nil
	}
	r := b.outer[0]
	d := 2 * r.radius
	if b.length() < 1.5*d || r.length() < 0.75*b.length() || b.outerWidth > 1.05*d || d > 20 {
		return nil
	}
	g := b.guess(Pin, 1, 0.5, "a plain cylinder of %.2f × %.1f mm", d, b.length())
	g.Diameter, g.Length = d, b.length()
	if math.Abs(d-math.Round(d)) < 0.01 {
		g.Size, g.Confidence = fmt.Sprintf("Ø%.0f", d), 0.6
	}
	return g
}
