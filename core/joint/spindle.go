package joint

import (
	"fmt"
	"math"
	"math/cmplx"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Thread is a thread whose turns are modelled, in the shape's frame, mm. One that is drawn as a cylinder is none.
type Thread struct {
	Axis, Centre space.Vec // Centre lies half-way along it
	Lead         float64   // advance in a revolution; negative for a left-hand thread
	Starts       int
	Inner        bool
	Tip, Root    float64 // radii
	Length       float64
}

const (
	mostStarts   = 4
	windowed     = 61   // sections that are looked at closely,
	stride       = 0.04 // so many radii apart
	shallowTurns = 0.01 // of the radius: what a thread's section differs from a circle, at least
	steady       = 0.35 // rad: how far the turn from section to section may be from the usual one
)

// Threads finds the threads of a shape: sections across the axis are out of round, and turn with the way along it.
func Threads(s *solid.Shape, f *solid.Features) (list []Thread) {
	if len(s.Triangles)/3 < 100 {
		return nil
	}
	for _, l := range axesOf(s, f) {
		a := look(s, l.centre, l.axis)
		seen := a.overview()
		for _, inner := range []bool{false, true} {
			if t, ok := a.thread(seen, inner); ok {
				t.Axis = l.axis
				t.Centre = r3.Add(l.centre, t.Centre)
				if !slices.ContainsFunc(list, func(o Thread) bool {
					return o.Inner == t.Inner && math.Abs(r3.Dot(o.Axis, t.Axis)) > 0.99
				}) {
					list = append(list, t)
				}
			}
		}
	}
	return list
}

// turnsOf is how an outline around the axis is out of round: the factors of its radius' Fourier series of 1 … mostStarts
// waves a turn, and its radii.
type turnsOf struct {
	waves     [mostStarts + 1]complex128
	low, high float64
}

func outOfRound(loop outline) (t turnsOf) {
	t.low = math.Inf(1)
	for i, p := range loop {
		q := loop[(i+1)%len(loop)]
		angle := math.Atan2(p[0]*q[1]-p[1]*q[0], p[0]*q[0]+p[1]*q[1])
		m := [2]float64{(p[0] + q[0]) / 2, (p[1] + q[1]) / 2}
		r, at := math.Hypot(m[0], m[1]), math.Atan2(m[1], m[0])
		for n := range t.waves {
			t.waves[n] += cmplx.Rect(r*math.Abs(angle)/(2*math.Pi), -float64(n)*at)
		}
		r = math.Hypot(p[0], p[1])
		t.low, t.high = min(t.low, r), max(t.high, r)
	}
	return t
}

// overview are the outlines around the axis of sections all along it.
func (a *around) overview() (list [24][]outline) {
	for k := range list {
		list[k] = a.loops(a.low + (float64(k)+0.487)*(a.high-a.low)/float64(len(list)))
	}
	return list
}

// widest is how a section is out of round: its widest outline, or its narrowest hole.
func widest(loops []outline, inner bool) (best turnsOf, ok bool) {
	for _, loop := range loops {
		if loop.area() < 0 != inner {
			continue
		}
		t := outOfRound(loop)
		if !ok || t.high > best.high != inner {
			best, ok = t, true
		}
	}
	return best, ok
}

// area is that which an outline goes around anticlockwise, mm²; of a hole it is negative.
func (o outline) area() (sum float64) {
	for i, p := range o {
		q := o[(i+1)%len(o)]
		sum += (p[0]*q[1] - p[1]*q[0]) / 2
	}
	return sum
}

// thread looks for a thread about the axis. Its centre is the way along that.
func (a *around) thread(seen [24][]outline, inner bool) (t Thread, ok bool) {
	first, last, starts := math.Inf(1), math.Inf(-1), 0
	step := (a.high - a.low) / float64(len(seen))
	radius := 0.0
	for k, loops := range seen {
		w := a.low + (float64(k)+0.487)*step
		if s, ok := widest(loops, inner); ok {
			if n := s.starts(); n > 0 && (starts == 0 || n == starts) {
				starts, radius = n, s.high
				first, last = min(first, w), max(last, w)
			}
		}
	}
	if starts == 0 || last-first < radius/2 {
		return t, false
	}
	turn, low, high, ok := a.turning((first+last)/2, radius*stride, starts, inner)
	if !ok {
		return t, false
	}
	// A section is that of the bottom turned by what the lead makes of the way: its wave of n turns back n times that.
	t = Thread{
		Lead:   -2 * math.Pi * float64(starts) * radius * stride / turn,
		Starts: starts,
		Inner:  inner,
		Tip:    high,
		Root:   low,
	}
	if inner {
		t.Tip, t.Root = low, high
	}
	t.Length = min(last-first+step, a.high-a.low)
	if pitch := math.Abs(t.Lead) / float64(starts); pitch < 3*stride*radius || pitch > 2*radius || pitch > t.Length {
		return t, false
	}
	t.Centre = r3.Scale((first+last)/2, a.axis)
	return t, true
}

// starts is how many turns side by side a section may be of, 0 for none.
func (s *turnsOf) starts() int {
	most := 0.0
	for n := 1; n <= mostStarts; n++ {
		most = max(most, cmplx.Abs(s.waves[n]))
	}
	if most < shallowTurns*s.high {
		return 0
	}
	for n := 1; n < mostStarts; n++ {
		if cmplx.Abs(s.waves[n]) > 0.3*most {
			return n
		}
	}
	return mostStarts
}

// turning is by how much the wave of n turns from one section to the next around a middle, rad, and the radii that were
// met. It is not ok where it does so unevenly.
func (a *around) turning(middle, step float64, n int, inner bool) (turn, low, high float64, ok bool) {
	low = math.Inf(1)
	var turns []float64
	var before complex128
	for k := range windowed {
		s, there := widest(a.loops(middle+(float64(k-windowed/2)+0.013)*step), inner)
		if !there {
			before = 0
			continue
		}
		low, high = min(low, s.low), max(high, s.high)
		if now := s.waves[n]; before != 0 && now != 0 {
			turns = append(turns, cmplx.Phase(now/before))
			before = now
		} else {
			before = now
		}
	}
	if len(turns) < windowed/3 {
		return 0, 0, 0, false
	}
	usual := slices.Clone(turns)
	slices.Sort(usual)
	turn = usual[len(usual)/2]
	like, sum := 0, 0.0
	for _, t := range turns {
		if math.Abs(t-turn) < steady {
			like++
			sum += t
		}
	}
	// What does not turn is eccentric; what turns by nearly half a wave cannot be told from what turns back.
	return sum / float64(like), low, high, 10*like >= 8*len(turns) && math.Abs(turn) > 0.02 && math.Abs(turn) < 2.6
}

// runOnThreads proposes nuts on spindles: the nut screws along, or, where it is kept from turning and the spindle turns,
// slides as that turns.
func (f *finder) runOnThreads() {
	for _, c := range f.known.Contacts {
		i, j := f.index[c.A], f.index[c.B]
		if !f.fixes(i) && !f.fixes(j) && !f.runsOn(i, j) {
			f.runsOn(j, i)
		}
	}
}

// runsOn looks for a thread of the spindle in one of the nut.
func (f *finder) runsOn(spindle, nut int) bool {
	for _, t := range f.threads[f.a.Nodes[spindle].Shape] {
		if t.Inner {
			continue
		}
		own := line{f.worlds[spindle].Apply(t.Centre), f.worlds[spindle].R.Apply(t.Axis)}
		for _, h := range f.threads[f.a.Nodes[nut].Shape] {
			other := line{f.worlds[nut].Apply(h.Centre), f.worlds[nut].R.Apply(h.Axis)}
			apart := math.Abs(r3.Dot(r3.Sub(other.centre, own.centre), own.axis))
			if h.Inner && own.near(other, coaxial) && math.Abs(h.Lead-t.Lead) < 0.02*math.Abs(t.Lead) &&
				h.Root > t.Root && h.Tip < t.Tip+snug && apart < (t.Length+h.Length)/2 {
				f.screws(spindle, nut, own, &t)
				return true
			}
		}
	}
	return false
}

func (f *finder) screws(spindle, nut int, l line, t *Thread) {
	why := fmt.Sprintf("a thread of Ø %.4g mm with a lead of %.4g mm", 2*t.Tip, t.Lead)
	turns, slides := f.about(spindle, assembly.Revolute, l, coaxial), f.about(nut, assembly.Prismatic, l, math.Inf(1))
	if turns == nil || slides == nil {
		f.propose(assembly.Helical, nut, spindle, l, 0.85, why)
		f.found.Joints[len(f.found.Joints)-1].Lead = t.Lead
		return
	}
	// A right-hand spindle that turns anticlockwise draws the nut towards whoever looks against the axis back.
	way := -t.Lead
	if r3.Dot(f.lineOf(turns).axis, f.lineOf(slides).axis) < 0 {
		way = -way
	}
	f.found.Couplings = append(f.found.Couplings, FoundCoupling{
		Coupling: assembly.Coupling{
			ID: idOf(slides.ID, turns.ID), Name: fmt.Sprintf("%s on %s", f.a.Nodes[nut].Name, f.a.Nodes[spindle].Name),
			Kind: assembly.Screw, Joint: slides.ID, By: turns.ID, Ratio: way,
		},
		Confidence: 0.85, Why: why,
	})
}
