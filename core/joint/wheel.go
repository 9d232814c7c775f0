package joint

import (
	"cmp"
	"maps"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Wheel is a ring of teeth on a shape, in the shape's frame, mm.
type Wheel struct {
	Axis, Centre space.Vec // Centre lies in the middle of its width
	Teeth        int
	Inner        bool // its teeth point inwards
	Tip, Root    float64
	Width        float64
	// Confidence is how sure it is that these are teeth, 0…1.
	Confidence float64
}

// Module is how large the teeth are: pitch diameter over teeth, mm, taken from the tips (ISO 54, ISO 21771: tip diameter
// m (z + 2), of inner teeth m (z − 2); from memory).
func (w *Wheel) Module() float64 {
	if w.Inner {
		return 2 * w.Tip / float64(w.Teeth-2)
	}
	return 2 * w.Tip / float64(w.Teeth+2)
}

const (
	fewestTeeth, mostTeeth = 7, 400
	sections               = 9
	mostAxes               = 4        // about which it is looked for teeth
	shallow, deep          = 1.0, 3.2 // depth of teeth in modules: ISO 53 has 2.25
	uneven                 = 0.12     // standard deviation of the pitch, as a share
)

// Wheels finds the rings of teeth of a shape.
func Wheels(s *solid.Shape, f *solid.Features) (list []Wheel) {
	if len(s.Triangles)/3 < 4*fewestTeeth {
		return nil
	}
	for _, line := range axesOf(s, f) {
		a := look(s, line.centre, line.axis)
		rings := map[[2]int]*ring{}
		step := (a.high - a.low) / sections
		for k := range sections {
			// Not in the middles: sections there may run along edges.
			w := a.low + (float64(k)+0.487)*step
			for _, loop := range a.loops(w) {
				if t := teethOf(loop); t != nil {
					rings[t.key()] = rings[t.key()].with(t, w)
				}
			}
		}
		for _, key := range slices.SortedFunc(maps.Keys(rings), func(a, b [2]int) int { return slices.Compare(a[:], b[:]) }) {
			if wheel := rings[key].wheel(a, &line, step); !slices.ContainsFunc(list, wheel.same) {
				list = append(list, *wheel)
			}
		}
	}
	slices.SortFunc(list, func(a, b Wheel) int {
		return cmp.Or(cmp.Compare(b.Confidence, a.Confidence), cmp.Compare(b.Teeth, a.Teeth), cmp.Compare(a.Tip, b.Tip))
	})
	return list
}

func (w *Wheel) same(o Wheel) bool {
	return w.Teeth == o.Teeth && w.Inner == o.Inner && math.Abs(w.Tip-o.Tip) < 0.02*w.Tip &&
		r3.Norm(r3.Sub(w.Centre, o.Centre)) < w.Tip
}

// line is an axis that a shape may be round about.
type line struct{ centre, axis space.Vec }

// axesOf lists axes about which a shape may have teeth: those of its round surfaces, the widest first, and the one that
// it is balanced about.
func axesOf(s *solid.Shape, f *solid.Features) (list []line) {
	order := make([]int, 0, len(f.List))
	for i := range f.List {
		if f.List[i].Kind == solid.Cylinder && f.List[i].Turn > 0.6 {
			order = append(order, i)
		}
	}
	size := func(i int) float64 { return f.List[i].Radius * f.List[i].Length }
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(size(b), size(a)) })
	add := func(l line) {
		if len(list) < mostAxes && !slices.ContainsFunc(list, l.same) {
			list = append(list, l)
		}
	}
	if l, ok := balanced(s); ok {
		add(l)
	}
	for _, i := range order {
		add(line{f.List[i].Centre.Vec(), f.List[i].Axis.Vec()})
	}
	return list
}

// same reports whether two axes are one, to a hundredth of a millimetre or so.
func (l line) same(o line) bool {
	d := r3.Sub(o.centre, l.centre)
	off := r3.Norm(r3.Sub(d, r3.Scale(r3.Dot(d, l.axis), l.axis)))
	return math.Abs(r3.Dot(l.axis, o.axis)) > 0.9999 && off < 0.02
}

// parallel is the cosine of how far two directions may lean that count as one.
const parallel = 0.9995

// near reports whether two axes are parallel and no farther from each other than that, mm.
func (l line) near(o line, within float64) bool {
	d := r3.Sub(o.centre, l.centre)
	return math.Abs(r3.Dot(l.axis, o.axis)) > parallel &&
		r3.Norm(r3.Sub(d, r3.Scale(r3.Dot(d, l.axis), l.axis))) <= within
}

// balanced is the axis about which the surface's moments are the same in all directions across, as those of a wheel are.
func balanced(s *solid.Shape) (line, bool) {
	var area float64
	var sum space.Vec
	var second space.Mat3
	for pass := range 2 {
		for t := 0; t+2 < len(s.Triangles); t += 3 {
			var p [3]space.Vec
			for k := range 3 {
				at := 3 * s.Triangles[t+k]
				p[k] = space.Vec{
					X: float64(s.Positions[at]),
					Y: float64(s.Positions[at+1]),
					Z: float64(s.Positions[at+2]),
				}
			}
			part := r3.Norm(r3.Cross(r3.Sub(p[1], p[0]), r3.Sub(p[2], p[0]))) / 2
			middle := r3.Scale(1.0/3, r3.Add(p[0], r3.Add(p[1], p[2])))
			if pass == 0 {
				area += part
				sum = r3.Add(sum, r3.Scale(part, middle))
				continue
			}
			d := r3.Sub(middle, sum)
			v := [3]float64{d.X, d.Y, d.Z}
			for i := range 9 {
				second[i] += part * v[i/3] * v[i%3]
			}
		}
		if pass == 0 {
			sum = r3.Scale(1/max(area, 1e-12), sum)
		}
	}
	moments, axes := space.Principal(second)
	for k := range 3 {
		a, b := moments[(k+1)%3], moments[(k+2)%3]
		if math.Abs(a-b) < 0.02*max(a, b) && math.Abs(moments[k]-a) > 0.02*max(a, moments[k]) {
			return line{sum, axes.Column(k)}, true
		}
	}
	return line{}, false
}

// teeth is what one outline shows.
type teeth struct {
	count     int
	inner     bool
	low, high float64 // radii
	uneven    float64
}

func (t *teeth) key() [2]int {
	if t.inner {
		return [2]int{t.count, 1}
	}
	return [2]int{t.count, 0}
}

// teethOf counts the teeth of an outline around the axis, nil where it has none: how often it goes from near its roots to
// near its tips.
func teethOf(loop outline) *teeth {
	t := &teeth{low: math.Inf(1)}
	area := 0.0
	for i, p := range loop {
		q := loop[(i+1)%len(loop)]
		area += p[0]*q[1] - p[1]*q[0]
		r := math.Hypot(p[0], p[1])
		t.low, t.high = min(t.low, r), max(t.high, r)
	}
	t.inner = area < 0
	depth, middle := t.high-t.low, (t.high+t.low)/2
	if depth < 1e-3*t.high || depth > 0.6*t.high {
		return nil
	}
	starts := risings(loop, middle-0.15*depth, middle+0.15*depth)
	t.count = len(starts)
	if t.count < fewestTeeth || t.count > mostTeeth {
		return nil
	}
	pitch := 2 * math.Pi / float64(t.count)
	spread := 0.0
	for i, at := range starts {
		gap := math.Mod(math.Abs(starts[(i+1)%t.count]-at), 2*math.Pi)
		gap = min(gap, 2*math.Pi-gap)
		spread += (gap/pitch - 1) * (gap/pitch - 1)
	}
	t.uneven = math.Sqrt(spread / float64(t.count))
	if t.uneven > uneven {
		return nil
	}
	module := 2 * t.high / float64(t.count+2)
	if t.inner {
		module = 2 * t.low / float64(t.count-2)
	}
	if k := depth / module; k < shallow || k > deep {
		return nil // the corners of a polygon, or spokes
	}
	return t
}

// risings are the angles at which an outline comes from below low to above high.
func risings(loop outline, low, high float64) (list []float64) {
	n := len(loop)
	radius := func(i int) float64 { return math.Hypot(loop[i%n][0], loop[i%n][1]) }
	start := 0
	for start < n && radius(start) > low {
		start++
	}
	below := true
	for i := start; i <= start+n; i++ {
		switch r := radius(i); {
		case below && r >= high:
			below = false
			list = append(list, math.Atan2(loop[i%n][1], loop[i%n][0]))
		case !below && r <= low:
			below = true
		}
	}
	slices.Sort(list)
	return list
}

// ring is teeth that several sections show.
type ring struct {
	teeth
	at []float64
}

func (r *ring) with(t *teeth, w float64) *ring {
	if r == nil {
		r = &ring{teeth: *t}
	}
	r.low, r.high, r.uneven = min(r.low, t.low), max(r.high, t.high), max(r.uneven, t.uneven)
	r.at = append(r.at, w)
	return r
}

func (r *ring) wheel(a *around, l *line, step float64) *Wheel {
	first, last := r.at[0], r.at[len(r.at)-1]
	w := &Wheel{
		Axis: l.axis, Centre: r3.Add(l.centre, r3.Scale((first+last)/2, l.axis)),
		Teeth: r.count, Inner: r.inner, Tip: r.high, Root: r.low, Width: min(last-first+step, a.high-a.low),
	}
	if r.inner {
		w.Tip, w.Root = r.low, r.high
	}
	depth := math.Abs(w.Tip-w.Root) / w.Module()
	w.Confidence = 0.95 - 0.25*math.Abs(depth-2.25) - r.uneven
	if len(r.at) < 2 {
		w.Confidence -= 0.2
	}
	w.Confidence = max(0.3, min(w.Confidence, 0.95))
	return w
}
