package removal

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/film"
	"slowreveal/core/plan"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// angles are by how much a unit is turned about an axis to come free, degrees, the smallest first.
var angles = []float64{5, 10, 15, 20, 30, 45, 60, 75, 90, 120, 150, 180}

// line is an axis that a unit may be turned about, in the world.
type line struct{ along, through space.Vec }

// turned finds a unit that can leave along a straight way after a turn: about the axis of a round surface of its own or
// of what it touches, or, tilted, about its middle or a side of it. The turn is tried with package proof.
func (s *search) turned(node, stays int) *removal {
	level := s.children[node]
	for len(level) > 0 {
		for _, n := range level {
			u := s.unitOf(n)
			if len(u.parts) == 0 || s.keeps(&u, stays) || s.ended() {
				continue
			}
			for _, l := range s.lines(&u) {
				for _, angle := range angles {
					for _, degrees := range []float64{angle, -angle} {
						if r := s.afterTurn(&u, l, degrees); r != nil {
							return r
						}
					}
				}
			}
		}
		level = s.deeper(level)
	}
	return nil
}

// lines lists the axes about which a unit may be turned.
func (s *search) lines(u *unit) (list []line) {
	add := func(part int) {
		for _, f := range s.axes(part) {
			list = append(list, line{s.world[part].R.Apply(f.Axis.Vec()), s.world[part].Apply(f.Centre.Vec())})
		}
	}
	in := s.in(u)
	all := space.EmptyBox
	for _, p := range u.parts {
		all = all.Union(s.box[p])
		add(p)
		for _, t := range s.touching[p] {
			if s.there[t.node] && !in[t.node] {
				add(t.node)
			}
		}
	}
	half := r3.Scale(0.5, all.Size())
	for k := range 3 {
		axis := s.world[0].R.Column(k)
		for _, d := range []space.Vec{{}, {X: half.X}, {X: -half.X}, {Y: half.Y}, {Y: -half.Y}, {Z: half.Z}, {Z: -half.Z}} {
			list = append(list, line{axis, r3.Add(all.Centre(), d)})
		}
	}
	return list
}

// afterTurn is how a unit leaves after a turn, nil where it does not.
func (s *search) afterTurn(u *unit, l line, degrees float64) *removal {
	turn := space.TurnAbout(l.through, l.along, degrees)
	if s.ended() || s.collides(u, &turn) {
		return nil
	}
	for _, way := range s.waysFor(u) {
		if !s.freeFrom(u, &turn, s.way(way)) {
			continue
		}
		if !s.sweeps(u, l, degrees) {
			return nil
		}
		inverse := s.world[0].Inverse()
		need := s.out(u, way)
		return &removal{
			carried: -1,
			hits:    -1,
			units:   []unit{*u},
			ways:    []route{{[]leg{{along: s.way(way), need: need, far: need}}}},
			others:  s.others(u, -1),
			swing: &plan.Swing{
				About:   space.Vec3Of(inverse.R.Apply(l.along)),
				Pivot:   space.Vec3Of(inverse.Apply(l.through)),
				Degrees: degrees,
			},
			why: []string{
				fmt.Sprintf("No way leads out as it stands; after a turn of %.0f° there is one.", math.Abs(degrees)),
			},
		}
	}
	return nil
}

// collides reports whether a unit goes through anything where a motion has taken it.
func (s *search) collides(u *unit, by *space.Rigid) bool {
	in := s.in(u)
	for _, m := range u.parts {
		stands := by.Mul(&s.world[m])
		own := s.subject.Assembly.Shapes[s.nodes[m].Shape].Bounds().Moved(&stands)
		for o, there := range s.there {
			if !there || in[o] || !overlaps(own, s.box[o]) && !overlaps(s.box[m], s.box[o]) {
				continue
			}
			inverse := s.world[o].Inverse()
			rest, place := inverse.Mul(&s.world[m]), inverse.Mul(&stands)
			slack, ok := s.space.AtRest(o, m, &rest, clearance.Tolerance)
			if s.welded(m, o, ok) || ok && s.space.Slim(o, slack).Crosses(s.space.Slim(m, slack), &place) {
				return true
			}
		}
	}
	return false
}

// freeFrom reports whether a unit leaves along a direction from where a motion has taken it.
func (s *search) freeFrom(u *unit, by *space.Rigid, d space.Vec) bool {
	in := s.in(u)
	for _, m := range u.parts {
		stands := by.Mul(&s.world[m])
		for o, there := range s.there {
			if there && !in[o] && !math.IsInf(s.between(m, o, &stands, d, 3*s.size), 1) {
				return false
			}
		}
	}
	return true
}

// sweeps reports whether nothing is gone through while a unit is turned, by the proof of a film of it.
func (s *search) sweeps(u *unit, l line, degrees float64) bool {
	inverse := s.world[0].Inverse()
	doc := reveal.New("", reveal.Camera{Orientation: space.NoRotation, Distance: 1, FocalLength: 50})
	for _, p := range s.below[0] {
		if !s.there[p] {
			doc.Opening.Suppressed = append(doc.Opening.Suppressed, s.nodes[p].ID)
		}
	}
	var targets []assembly.NodeID
	for _, n := range u.nodes {
		targets = append(targets, s.nodes[n].ID)
	}
	doc.Steps = []reveal.Step{
		{
			ID:       "turn",
			Title:    "Turn",
			Duration: reveal.Second,
			Cues: []reveal.Cue{
				{ID: "turn", Kind: reveal.KindTurn, Targets: targets, Duration: reveal.Second, Easing: reveal.Linear,
					Turn: &reveal.Turn{
						Axes:    reveal.AssemblyAxes,
						About:   space.Vec3Of(inverse.R.Apply(l.along)),
						Pivot:   space.Vec3Of(inverse.Apply(l.through)),
						Degrees: degrees,
					}},
			},
		},
	}
	found, err := proof.Interference(s.ctx, film.Compile(s.subject.Assembly, doc), s.subject.Shapes, proof.Settings{})
	return err == nil && len(found.List) == 0
}
