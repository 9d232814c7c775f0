package proof

import (
	"fmt"
	"math"

	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// seenFrom is how much of what moves has to be seen from another eye, as a share of it.
const seenFrom = 0.6

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

// otherEye looks at what is hidden from elsewhere: from the nearest directions from which enough of it is seen.
func (m *mender) otherEye(f *Finding) (list []Mend) {
	s := m.subject
	if s.eyes == nil {
		return nil
	}
	solid := make([]bool, len(s.film.Assembly.Nodes))
	for _, part := range s.of(f.Parts) {
		solid[part] = true
	}
	fr := s.at((f.From + f.To) / 2)
	own := fr.Camera
	all := seenOf(s.eyes.Nodes(fr, solid, true), solid)
	for _, turn := range turns {
		camera := own
		camera.Orientation = swung(own.Orientation, turn[0], turn[1])
		fr.Camera = camera
		if seen := seenOf(s.eyes.Nodes(fr, solid, false), solid); all == 0 || seen < seenFrom*all {
			continue
		}
		mend, ok := m.withCamera(
			f.At,
			fmt.Sprintf("Look from %s", turnWords(turn)),
			func(c *reveal.Camera) { c.Orientation = swung(c.Orientation, turn[0], turn[1]) },
		)
		if ok {
			list = append(list, mend)
		}
	}
	fr.Camera = own
	return list
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
