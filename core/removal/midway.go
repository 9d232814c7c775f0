package removal

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/plan"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Bounds on the search for a turn on the way: how many poses are tried of one unit, and of all of a plan.
const (
	mostPoses    = 600
	mostAllPoses = 4000
)

// turns are by how much a unit is turned on its way, degrees.
var turns = []float64{90, -90, 45, -45, 180, 30, -30, 60, -60, 15, -15}

// midway finds a unit's way out with a turn on the way: led to one of the places that it can come to, turned there about
// its middle, and then off along a straight way or two. It returns nil where none is found.
func (s *search) midway(u *unit, ways []int, places []place) *removal {
	all := space.EmptyBox
	for _, p := range u.parts {
		all = all.Union(s.box[p])
	}
	poses := 0
	for k := 1; k < len(places); k++ {
		shift := shifted(places[k].at)
		for axis := range 3 {
			about := line{s.world[0].R.Column(axis), all.Centre()}
			for _, degrees := range turns {
				if poses++; poses > mostPoses || s.posed >= mostAllPoses || s.ended() {
					return nil
				}
				s.posed++
				turn := space.TurnAbout(about.through, about.along, degrees)
				by := shift.Mul(&turn)
				if s.collides(u, &by) {
					continue
				}
				after := s.bent(u, by, -1, 2)
				if after == nil || !s.sweeps(u, places[k].at, about, degrees) {
					continue
				}
				return s.withTurn(u, s.stops(u, places[:k+1]), after, about, degrees)
			}
		}
	}
	return nil
}

// withTurn is the move with legs before and after a turn.
func (s *search) withTurn(u *unit, before, after []leg, about line, degrees float64) *removal {
	inverse := s.world[0].Inverse()
	return &removal{
		carried: -1,
		hits:    -1,
		units:   []unit{*u},
		ways:    []route{{append(before, after...)}},
		others:  s.others(u, -1),
		swing: &plan.Swing{
			About:   space.Vec3Of(inverse.R.Apply(about.along)),
			Pivot:   space.Vec3Of(inverse.Apply(about.through)),
			Degrees: degrees,
			After:   len(before),
		},
		why: []string{
			fmt.Sprintf("No way leads out as it stands; it is turned by %.0f° on the way.", math.Abs(degrees)),
		},
	}
}

// outAfter is how far a unit goes along a way, from where a motion has taken it, until it is clear of what it passes.
// Where it has not been turned, it is as far as from its place.
func (s *search) outAfter(u *unit, by *space.Rigid, way int) (far float64) {
	if by.R == space.Identity.R {
		return s.out(u, way)
	}
	d := s.way(way)
	in := s.in(u)
	low, all := math.Inf(1), space.EmptyBox
	for _, m := range u.parts {
		stands := by.Mul(&s.world[m])
		own := s.subject.Assembly.Shapes[s.nodes[m].Shape].Bounds().Moved(&stands)
		all = all.Union(own)
		for i := range 8 {
			low = min(low, r3.Dot(d, own.Corner(i)))
		}
	}
	for o, there := range s.there {
		if !there || in[o] || solid.Meets(s.box[o], all, r3.Scale(3*s.size, d)) > 1 {
			continue
		}
		for i := range 8 {
			far = max(far, r3.Dot(d, s.box[o].Corner(i))-low)
		}
	}
	return far
}
