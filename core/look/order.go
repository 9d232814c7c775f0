package look

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Eye is an eye in the world: where it is, mm, and which way it looks, of unit length. Where its lines
// of sight are parallel only the way counts.
type Eye struct {
	At, Ahead    space.Vec
	Orthographic bool
}

// Box is a part's box in its own frame, and where the part stands.
type Box struct {
	Own   space.Box
	World space.Rigid
}

// mostOrdered is up to how many boxes each is held against each other: the time grows with their
// square, and is the page's for every picture.
const mostOrdered = 120

// BackToFront returns the numbers of boxes in the order in which an eye sees them, the farthest first, so
// that see-through parts can be drawn one over the other. Of two boxes that a plane divides, or most of
// the smaller one from the other, that on the eye's side is in front (the separating planes of
// Schumacker 1969, from memory: only what lies on the eye's side can hide). Of a plate and what stands
// in it the side counts on which most of that is; of others that reach into each other, which comes
// nearest to the eye. Where three hide each other in a ring the farthest is taken first.
func BackToFront(boxes []Box, eye Eye) []int {
	stand := make([]standing, len(boxes))
	for i := range boxes {
		stand[i] = standingOf(&boxes[i], &eye)
	}
	order := make([]int, 0, len(boxes))
	if len(boxes) > mostOrdered {
		for i := range boxes {
			order = append(order, i)
		}
		slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(stand[b].near, stand[a].near) })
		return order
	}
	behind, hiders := hiding(stand, &eye)
	for range boxes {
		next := -1
		for i := range stand {
			if behind[i] >= 0 && (next < 0 || stand[i].comesBefore(behind[i], &stand[next], behind[next])) {
				next = i
			}
		}
		order = append(order, next)
		behind[next] = -1 // is done
		for _, i := range hiders[next] {
			if behind[i] > 0 {
				behind[i]--
			}
		}
	}
	return order
}

// hiding returns how many boxes lie behind each, and which ones lie in front of it.
func hiding(stand []standing, eye *Eye) (behind []int, hiders [][]int) {
	behind, hiders = make([]int, len(stand)), make([][]int, len(stand))
	for i := range stand {
		for j := range i {
			switch stand[i].before(&stand[j], eye) {
			case 1:
				behind[i]++
				hiders[j] = append(hiders[j], i)
			case -1:
				behind[j]++
				hiders[i] = append(hiders[i], j)
			}
		}
	}
	return behind, hiders
}

// standing is a box in the world: its middle, its axes, of unit length, and how far it reaches along
// them to both sides.
type standing struct {
	centre space.Vec
	axis   [3]space.Vec
	half   [3]float64
	near   float64 // how far ahead of the eye it begins
	// Where the ball around it is seen: which way, and how far to each side of that, rad. Where lines
	// of sight are parallel it is a place, mm, and the radius.
	seen space.Vec
	wide float64
}

func standingOf(b *Box, eye *Eye) (s standing) {
	size := b.Own.Size()
	s.centre = b.World.Apply(b.Own.Centre())
	s.half = [3]float64{size.X / 2, size.Y / 2, size.Z / 2}
	for i := range 3 {
		s.axis[i] = b.World.R.Column(i)
	}
	from := r3.Sub(s.centre, eye.At)
	ahead := r3.Dot(from, eye.Ahead)
	s.near = ahead - s.reach(eye.Ahead)
	radius, distance := r3.Norm(size)/2, r3.Norm(from)
	switch {
	case eye.Orthographic:
		s.seen, s.wide = r3.Sub(from, r3.Scale(ahead, eye.Ahead)), radius
	case distance <= radius:
		s.seen, s.wide = eye.Ahead, math.Pi
	default:
		s.seen, s.wide = r3.Scale(1/distance, from), math.Asin(radius/distance)
	}
	return s
}

// reach returns how far a box reaches from its middle in a direction of unit length.
func (s *standing) reach(way space.Vec) (far float64) {
	for i := range 3 {
		far += s.half[i] * math.Abs(r3.Dot(s.axis[i], way))
	}
	return far
}

// comesBefore reports whether a box is drawn before another, given how many of those left lie behind
// each: none, or else it is a ring.
func (s *standing) comesBefore(behind int, other *standing, behindOther int) bool {
	if free, otherFree := behind == 0, behindOther == 0; free != otherFree {
		return free
	}
	return s.near > other.near
}

// before returns 1 where a box lies in front of another, −1 where it lies behind it, and 0 where
// neither hides any of the other.
func (s *standing) before(other *standing, eye *Eye) int {
	if s.apart(other, eye) {
		return 0
	}
	widest, sign := -1.0, 0 // by a plane, which may cut the smaller one up to its middle
	most, stands := 0.1, 0  // by a plate and how far out of its middle the other one stands in it
	for k, pair := range [2][2]*standing{{s, other}, {other, s}} {
		of, next := pair[0], pair[1]
		for i, way := range of.axis {
			reach := next.reach(way)
			d := r3.Dot(way, r3.Sub(next.centre, of.centre))
			if d < 0 {
				d, way = -d, r3.Scale(-1, way)
			}
			side := -1
			if eye.height(of.centre, way) < (of.half[i]+d-reach)/2 {
				side = 1
			}
			if k == 1 {
				side = -side
			}
			if gap := (d - of.half[i] - reach) / math.Min(of.half[i], reach); gap > widest {
				widest, sign = gap, side
			}
			if of.plate(i) && d > most*reach {
				most, stands = d/reach, side
			}
		}
	}
	switch {
	case sign != 0:
		return sign
	case stands != 0:
		return stands
	case s.near < other.near:
		return 1
	}
	return -1
}

// plate reports whether a box is thin along an axis.
func (s *standing) plate(i int) bool {
	return s.half[i] < 0.3*min(s.half[(i+1)%3], s.half[(i+2)%3])
}

// height returns how far from a point the eye is in a direction, mm.
func (e *Eye) height(from, way space.Vec) float64 {
	if e.Orthographic {
		return math.Copysign(math.Inf(1), -r3.Dot(e.Ahead, way))
	}
	return r3.Dot(r3.Sub(e.At, from), way)
}

// apart reports whether the balls around two boxes are seen side by side.
func (s *standing) apart(other *standing, eye *Eye) bool {
	wide := s.wide + other.wide
	if eye.Orthographic {
		return r3.Norm(r3.Sub(other.seen, s.seen)) > wide
	}
	return wide < math.Pi && r3.Dot(s.seen, other.seen) < math.Cos(wide)
}
