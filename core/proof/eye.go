package proof

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// seenFrom is how much of what moves has to be seen from another eye, as a share of it; where none sees so much,
// those that see most of it are tried as long as they see leastFrom.
const seenFrom, leastFrom = 0.6, 0.3

// shotAt is the shot that holds at a time: the last that has begun, nil for the opening's camera. ok is false where it
// is one of a retrace.
func (m *mender) shotAt(t reveal.Micros) (shot *reveal.Cue, ok bool) {
	ok = true
	for _, b := range m.subject.bars(func(b *film.Bar) bool { return b.Kind == reveal.KindShot && b.Start <= t }) {
		shot, ok = m.cue(b.Cue), !b.Retraced
	}
	return shot, ok
}

// withCamera changes the camera that holds at a time.
func (m *mender) withCamera(t reveal.Micros, says string, change func(c *reveal.Camera)) (mend Mend, ok bool) {
	shot, ok := m.shotAt(t)
	if !ok || shot != nil && shot.Twin != "" {
		return mend, false
	}
	if shot == nil {
		o := reveal.Clone(m.doc).Opening
		change(&o.Camera)
		return Mend{fmt.Sprintf("%s in the opening", says), edit.Command{Op: edit.SetOpening, Opening: &o}}, true
	}
	changed := clonedCue(shot)
	change(&changed.Shot.Camera)
	name := changed.Shot.Name
	if name == "" {
		name = "without a name"
	}
	return Mend{fmt.Sprintf("%s in the shot “%s”", says, name), edit.Command{Op: edit.SetCue, Cue: changed}}, true
}

// stepBack lets the camera stand farther away.
func (m *mender) stepBack(f *Finding) (list []Mend) {
	for _, by := range [6]float64{1.1, 1.2, 1.35, 1.5, 1.75, 2} {
		if mend, ok := m.withCamera(f.At, fmt.Sprintf("Step back by %.0f %%", 100*(by-1)), func(c *reveal.Camera) { c.Distance *= by }); ok {
			list = append(list, mend)
		}
	}
	return list
}

// otherEye looks at parts from elsewhere: from the nearest directions from which enough of them is seen, at some moments
// and at the end of the step.
func (m *mender) otherEye(f *Finding, parts []int, at ...reveal.Micros) (list []Mend) {
	s := m.subject
	if s.eyes == nil || len(parts) == 0 {
		return nil
	}
	solid := make([]bool, len(s.film.Assembly.Nodes))
	for _, part := range parts {
		solid[part] = true
	}
	shares := make([]float64, len(turns))
	for i := range shares {
		shares[i] = 1
	}
	span := s.spanAt(f.At)
	for _, t := range append(at, span.Start+span.Duration-1) {
		fr := s.at(t)
		own := fr.Camera
		for i, turn := range turns {
			fr.Camera.Orientation = swung(own.Orientation, turn[0], turn[1])
			all := seenOf(s.eyes.Nodes(fr, solid, true), solid)
			shares[i] = min(shares[i], seenOf(s.eyes.Nodes(fr, solid, false), solid)/max(all, 1))
		}
		fr.Camera = own
	}
	order := make([]int, 0, len(turns))
	for i, share := range shares {
		if share >= leastFrom {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Compare(min(shares[b], seenFrom), min(shares[a], seenFrom))
	})
	for _, i := range order {
		turn := turns[i]
		mend, ok := m.withCamera(
			f.At,
			fmt.Sprintf("Look from %s", turnWords(turn)),
			func(c *reveal.Camera) { c.Orientation = swung(c.Orientation, turn[0], turn[1]) },
		)
		if ok {
			list = append(list, mend)
		}
	}
	return list
}

// spanAt is the span of the step that runs at a time.
func (s *subject) spanAt(t reveal.Micros) *film.Span {
	steps := s.film.Schedule.Steps
	for i := range steps {
		if t < steps[i].Start+steps[i].Duration {
			return &steps[i]
		}
	}
	return &steps[len(steps)-1]
}

func seenOf(owners []int32, of []bool) (n float64) {
	for _, o := range owners {
		if o >= 0 && of[o] {
			n++
		}
	}
	return n
}

// turns are by how much an eye is turned about the upright and raised, degrees: the nearest first.
var turns = [][2]float64{
	{20, 0},
	{-20, 0},
	{0, 20},
	{0, -20},
	{40, 0},
	{-40, 0},
	{25, 25},
	{-25, 25},
	{0, 40},
	{60, 0},
	{-60, 0},
	{45, 30},
	{-45, 30},
	{90, 0},
	{-90, 0},
	{90, 30},
	{-90, 30},
	{135, 20},
	{-135, 20},
	{180, 0},
}

// swung turns a camera about the upright of the world, and raises it about its own across.
func swung(q space.Quat, about, raise float64) space.Quat {
	r := q.Normalized().Matrix()
	across := r.Column(0)
	up := space.AxisAngle(across, -raise)
	side := space.AxisAngle(space.Vec{Y: 1}, about)
	both := side.Mul(&up)
	turned := both.Mul(&r)
	return turned.Quat()
}

func turnWords(turn [2]float64) string {
	text := ""
	if turn[0] != 0 {
		side := "right"
		if turn[0] < 0 {
			side = "left"
		}
		text = fmt.Sprintf("%.0f° farther %s", math.Abs(turn[0]), side)
	}
	if turn[1] != 0 {
		height := "higher"
		if turn[1] < 0 {
			height = "lower"
		}
		if text != "" {
			text += " and "
		}
		text += fmt.Sprintf("%.0f° %s", math.Abs(turn[1]), height)
	}
	return text
}
