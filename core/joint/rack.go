package joint

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Straight is a straight row of teeth, as a rack has them, in the shape's frame, mm.
type Straight struct {
	// Along is the direction of the row, Out that in which its teeth point, and Across that of the teeth themselves.
	Along, Out, Across space.Vec
	Centre             space.Vec // in the middle of the row, at the tips
	Teeth              int
	Pitch, Depth       float64
	Length, Width      float64
	// Confidence is how sure it is that these are teeth, 0…1.
	Confidence float64
}

// Module is how large the teeth are: pitch over π, mm (ISO 21771; from memory).
func (s *Straight) Module() float64 { return s.Pitch / math.Pi }

const fewestInRow = 4

// Racks finds the straight rows of teeth of a shape.
func Racks(s *solid.Shape, f *solid.Features) (list []Straight) {
	if len(s.Triangles)/3 < 8*fewestInRow {
		return nil
	}
	for _, l := range flatAxes(f) {
		a := look(s, l.centre, l.axis)
		for _, loop := range a.outlines((a.low + a.high) / 2 * 0.999) {
			for _, way := range ways(loop) {
				if r := rowOf(loop, way); r != nil {
					list = append(list, r.placed(a, &l, way))
				}
			}
		}
	}
	slices.SortStableFunc(list, func(a, b Straight) int { return b.Teeth - a.Teeth })
	return slices.CompactFunc(list, func(a, b Straight) bool {
		return a.Teeth == b.Teeth && math.Abs(r3.Dot(a.Along, b.Along)) > 0.999 &&
			r3.Norm(r3.Sub(a.Centre, b.Centre)) < a.Pitch
	})
}

// flatAxes are the directions that the ends of teeth may look in: those of the flat faces, the widest first.
func flatAxes(f *solid.Features) (list []line) {
	order := make([]int, 0, len(f.List))
	for i := range f.List {
		if f.List[i].Kind == solid.Plane {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(f.List[b].Area, f.List[a].Area) })
	for _, i := range order {
		n := f.List[i].Axis.Vec()
		if len(list) < mostAxes &&
			!slices.ContainsFunc(list, func(l line) bool { return math.Abs(r3.Dot(l.axis, n)) > 0.999 }) {
			list = append(list, line{f.List[i].Centre.Vec(), n})
		}
	}
	return list
}

// ways are the directions that most of an outline's length runs in, at most three: a row of teeth runs along one of
// those, its back does too.
func ways(loop outline) (list [][2]float64) {
	type direction struct {
		way    [2]float64
		length float64
	}
	var all []direction
	for i, p := range loop {
		q := loop[(i+1)%len(loop)]
		d := [2]float64{q[0] - p[0], q[1] - p[1]}
		l := math.Hypot(d[0], d[1])
		if l < 1e-9 {
			continue
		}
		d[0], d[1] = d[0]/l, d[1]/l
		at := slices.IndexFunc(all, func(o direction) bool { return math.Abs(o.way[0]*d[1]-o.way[1]*d[0]) < 1e-3 })
		if at < 0 {
			if len(all) == 64 {
				return nil // a curve
			}
			all, at = append(all, direction{way: d}), len(all)
		}
		all[at].length += l
	}
	slices.SortStableFunc(all, func(a, b direction) int { return cmp.Compare(b.length, a.length) })
	for _, d := range all[:min(3, len(all))] {
		list = append(list, d.way, [2]float64{-d.way[0], -d.way[1]})
	}
	return list
}

// row is a row of teeth of an outline: along its direction from first to last tip, and how far out tips and roots are.
type row struct {
	teeth               int
	first, last         float64
	tip, root, unevenly float64
}

// rowOf looks for the teeth that stand out to the right of a direction: the outline comes as far out again and again, in
// even distances. It is nil where there are none.
func rowOf(loop outline, way [2]float64) *row {
	along := func(p [2]float64) float64 { return p[0]*way[0] + p[1]*way[1] }
	out := func(p [2]float64) float64 { return p[0]*way[1] - p[1]*way[0] }
	r := row{tip: math.Inf(-1), root: math.Inf(1)}
	for _, p := range loop {
		r.tip = max(r.tip, out(p))
	}
	from, to := math.Inf(1), math.Inf(-1)
	for _, p := range loop {
		from, to = min(from, along(p)), max(to, along(p))
	}
	near := 1e-3 * (to - from)
	var tips []float64
	var roots []float64
	start := slices.IndexFunc(loop, func(p [2]float64) bool { return out(p) < r.tip-near })
	if start < 0 {
		return nil
	}
	inside, low := false, math.Inf(1)
	var begun, ended float64
	for k := range len(loop) + 1 {
		p := loop[(start+k)%len(loop)]
		switch is := out(p) >= r.tip-near; {
		case is && !inside:
			if len(tips) > 0 {
				roots = append(roots, low)
			}
			begun, low, inside = along(p), math.Inf(1), true
			ended = begun
		case is:
			ended = along(p)
		case inside:
			tips = append(tips, (begun+ended)/2)
			inside = false
			low = out(p)
		default:
			low = min(low, out(p))
		}
	}
	return r.with(tips, roots)
}

// with takes what was met as teeth: nil where they are too few, or uneven.
func (r *row) with(tips, roots []float64) *row {
	r.teeth = len(tips)
	if r.teeth < fewestInRow || len(roots) != r.teeth-1 {
		return nil
	}
	r.first, r.last = tips[0], tips[r.teeth-1]
	pitch := (r.last - r.first) / float64(r.teeth-1)
	spread := 0.0
	for i := 1; i < r.teeth; i++ {
		k := (tips[i]-tips[i-1])/pitch - 1
		spread += k * k
	}
	r.unevenly = math.Sqrt(spread / float64(r.teeth-1))
	slices.Sort(roots)
	r.root = roots[len(roots)/2]
	depth := (r.tip - r.root) / (math.Abs(pitch) / math.Pi)
	if r.unevenly > uneven/2 || roots[len(roots)-1]-roots[0] > 0.1*(r.tip-r.root) || depth < shallow || depth > deep {
		return nil
	}
	return r
}

// placed is a row of a section as one of the shape.
func (r *row) placed(a *around, l *line, way [2]float64) Straight {
	in := func(p [2]float64) space.Vec { return r3.Add(r3.Scale(p[0], a.u), r3.Scale(p[1], a.v)) }
	along := in(way)
	out := in([2]float64{way[1], -way[0]})
	s := Straight{Along: along, Out: out, Across: l.axis, Teeth: r.teeth, Width: a.high - a.low, Depth: r.tip - r.root}
	s.Pitch = math.Abs(r.last-r.first) / float64(r.teeth-1)
	s.Length = s.Pitch * float64(r.teeth)
	s.Centre = r3.Add(l.centre, r3.Add(
		r3.Add(r3.Scale((r.first+r.last)/2, along), r3.Scale(r.tip, out)), r3.Scale((a.low+a.high)/2, l.axis)))
	s.Confidence = max(0.3, min(0.95, 0.95-0.25*math.Abs(s.Depth/s.Module()-2.25)-r.unevenly))
	return s
}

// meshRacks couples racks with the pinions whose teeth they mesh with.
func (f *finder) meshRacks(wheels []placed) {
	for i := range f.a.Nodes {
		n := &f.a.Nodes[i]
		if !n.IsPart() {
			continue
		}
		for k := range f.racks[n.Shape] {
			r := f.racks[n.Shape][k].moved(&f.worlds[i])
			for w := range wheels {
				if wheels[w].node != i && !wheels[w].Inner {
					f.onRack(&r, i, &wheels[w])
				}
			}
		}
	}
}

func (s Straight) moved(m *space.Rigid) Straight {
	s.Along, s.Out, s.Across = m.R.Apply(s.Along), m.R.Apply(s.Out), m.R.Apply(s.Across)
	s.Centre = m.Apply(s.Centre)
	return s
}

// onRack couples a rack and a pinion: one module, the pinion's axis along the rack's teeth, and as far from them as it
// is large (a rack's pitch line lies a module below its tips: ISO 53, from memory).
func (f *finder) onRack(r *Straight, node int, w *placed) {
	if math.Abs(r3.Dot(r.Across, w.axis)) < parallel || math.Abs(r.Module()-w.Module()) > likeModules*r.Module() {
		return
	}
	module := (r.Module() + w.Module()) / 2
	d := r3.Sub(w.centre, r.Centre)
	apart, want := r3.Dot(d, r.Out)+module, module*float64(w.Teeth)/2
	if math.Abs(apart-want) > offCentre*module || math.Abs(r3.Dot(d, r.Along)) > r.Length/2+w.Tip ||
		math.Abs(r3.Dot(d, r.Across)) > 0.95*(r.Width+w.Width)/2 {
		return
	}
	l := line{r.Centre, r.Along}
	words := fmt.Sprintf("%d straight teeth of module %.3g", r.Teeth, module)
	slides := f.about(node, assembly.Prismatic, l, math.Inf(1))
	if slides == nil {
		f.propose(assembly.Prismatic, node, 0, l, 0.5, words)
		slides = &f.found.Joints[len(f.found.Joints)-1]
	}
	one, other := slides.ID, f.jointFor(w)
	f.found.Couplings = append(f.found.Couplings, FoundCoupling{
		Coupling: assembly.Coupling{
			ID: idOf(one, other), Name: fmt.Sprintf("%s and %s", f.a.Nodes[node].Name, f.a.Nodes[w.node].Name),
			Kind: assembly.Rack, Joint: one, By: other, Sizes: [2]float64{0, module * float64(w.Teeth)},
		},
		Confidence: min(r.Confidence, w.Confidence),
		Why: fmt.Sprintf(
			"%s beside %d, %.4g mm from their pitch line where %.4g fit",
			words,
			w.Teeth,
			apart,
			want,
		),
	})
}
