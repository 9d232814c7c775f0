package removal

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
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
			if len(u.parts) == 0 || s.keeps(&u, stays) || s.ended() || s.hopeless(byTurning, &u) {
				continue
			}
			s.begins()
			for _, l := range s.lines(&u) {
				if r := s.about(&u, l); r != nil {
					return r
				}
			}
			s.fails(byTurning, &u)
		}
		level = s.deeper(level)
	}
	return nil
}

// about is how a unit leaves after a turn about an axis, nil where it does not. Past an angle at which it goes into
// something it cannot be turned.
func (s *search) about(u *unit, l line) *removal {
	shut, inWay := map[bool]bool{}, map[int]int{}
	for _, angle := range angles {
		for _, degrees := range []float64{angle, -angle} {
			if shut[degrees > 0] {
				continue
			}
			turn := space.TurnAbout(l.through, l.along, degrees)
			if s.ended() || s.collides(u, &turn) {
				shut[degrees > 0] = true
				continue
			}
			if r := s.afterTurn(u, l, &turn, degrees, inWay); r != nil {
				return r
			}
		}
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
// inWay says what was in the way of each way when it was asked last: most often it is again.
func (s *search) afterTurn(u *unit, l line, turn *space.Rigid, degrees float64, inWay map[int]int) *removal {
	for _, way := range s.waysFor(u) {
		if by, known := inWay[way]; known && s.blocks(by, u, turn, s.way(way)) {
			continue
		}
		if by, free := s.freeFrom(u, turn, s.way(way)); !free {
			inWay[way] = by
			continue
		}
		if !s.sweeps(u, space.Vec{}, l, degrees) {
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
			place := inverse.Mul(&stands)
			slack, ok := s.atRest(o, m)
			if s.welded(m, o, ok) || ok && s.space.Slim(o, slack).Crosses(s.space.Slim(m, slack), &place) {
				s.meet(o)
				return true
			}
		}
	}
	return false
}

// freeFrom reports whether a unit leaves along a direction from where a motion has taken it, or what is in its way.
func (s *search) freeFrom(u *unit, by *space.Rigid, d space.Vec) (blocker int, free bool) {
	in := s.in(u)
	for o, there := range s.there {
		if there && !in[o] && s.blocks(o, u, by, d) {
			s.meet(o)
			return o, false
		}
	}
	return -1, true
}

// blocks reports whether a part is in the way of a unit along a direction from where a motion has taken that.
func (s *search) blocks(part int, u *unit, by *space.Rigid, d space.Vec) bool {
	for _, m := range u.parts {
		stands := by.Mul(&s.world[m])
		if !math.IsInf(s.between(m, part, &stands, d, 3*s.size), 1) {
			return true
		}
	}
	return false
}

// sweeps reports whether nothing is gone through while a unit that has been moved so far is turned about a line that
// goes along with it, by the proof of a film of it.
func (s *search) sweeps(u *unit, moved space.Vec, l line, degrees float64) bool {
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
	then := func(c reveal.Cue) {
		c.Targets, c.Duration, c.Easing = targets, reveal.Second, reveal.Linear
		c.ID = reveal.CueID(c.Kind)
		step := reveal.Step{ID: reveal.StepID(c.Kind), Title: "Turn", Duration: reveal.Second, Cues: []reveal.Cue{c}}
		doc.Steps = append(doc.Steps, step)
	}
	if far := r3.Norm(moved); far > 0 { // how it has come there is not looked at
		along := space.Vec3Of(inverse.R.Apply(r3.Scale(1/far, moved)))
		then(reveal.Cue{
			Kind: reveal.KindPull,
			Pull: &reveal.Pull{Axes: reveal.AssemblyAxes, Along: along, Distance: far},
		})
	}
	then(reveal.Cue{
		Kind: reveal.KindTurn,
		Turn: &reveal.Turn{
			Axes:    reveal.AssemblyAxes,
			About:   space.Vec3Of(inverse.R.Apply(l.along)),
			Pivot:   space.Vec3Of(inverse.Apply(r3.Add(l.through, moved))),
			Degrees: degrees,
		},
	})
	f := film.Compile(s.subject.Assembly, doc)
	found, err := proof.Interference(s.ctx, f, s.subject.Shapes, proof.Settings{})
	begun := f.Duration() - reveal.Second
	found.List = slices.DeleteFunc(found.List, func(o proof.Overlap) bool { return o.To <= begun })
	for i := range found.List {
		s.meet(s.index[found.List[i].Still])
		s.meet(s.index[found.List[i].Moving])
	}
	return err == nil && len(found.List) == 0
}
