package joint

import (
	"context"
	"fmt"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
)

const (
	leastLift = 0.2  // mm, or degrees: what moves less follows nothing
	notRound  = 0.02 // of its radius: by how much a cam is farther from its axis on one side than on another
	onCam     = 0.05 // mm: how near a follower lies for sure
)

// followCams finds cams: what turns, is not round about its axis and touches what slides across that, or turns beside
// it, so that this goes there and comes back in each revolution.
func (f *finder) followCams(ctx context.Context, shapes []*solid.Shape) {
	c := side{a: f.a, shapes: shapes, worlds: f.worlds, index: f.index}
	for i := range f.found.Joints {
		cam := &f.found.Joints[i]
		if ctx.Err() != nil {
			return
		}
		if _, teeth := f.roundAbout(f.index[cam.Body], f.lineOf(cam)); cam.Kind != assembly.Revolute || teeth {
			continue
		}
		c.axis = f.lineOf(cam)
		best := touch{apart: math.Inf(1)}
		var by *FoundJoint
		var table [][2]float64
		for k := range f.found.Joints {
			follower := &f.found.Joints[k]
			if i == k || follower.Body == cam.Body || follower.Base == cam.Body || cam.Base == follower.Body {
				continue
			}
			if t, rows, ok := f.followed(&c, cam, follower); ok && t.apart < best.apart {
				best, by, table = t, follower, rows
			}
		}
		if by != nil {
			f.runCam(cam, by, &best, table)
		}
	}
}

// followed reads how a follower moves as a cam turns; ok only where it does.
func (f *finder) followed(c *side, cam, follower *FoundJoint) (t touch, table [][2]float64, ok bool) {
	m, err := c.motionOf(&follower.Joint)
	if err != nil || m.turns && math.Hypot(m.centre[0], m.centre[1]) < coaxial {
		return t, nil, false
	}
	turning := f.index[cam.Body]
	if t, ok = c.touching([]int{turning}, f.carried(f.index[follower.Body], turning)); !ok || evenAbout(t.cam) {
		return t, nil, false
	}
	table, err = follow(t.cam, t.follower, m)
	return t, table, err == nil && lift(table) > leastLift
}

// carried are the parts that go with a body: it, and what it touches of its own group that turns or slides by itself
// nowhere else.
func (f *finder) carried(body, but int) []int {
	list := []int{body}
	for i := range f.known.Contacts {
		for k := range 2 {
			pair := [2]int{f.index[f.known.Contacts[i].A], f.index[f.known.Contacts[i].B]}
			one, other := pair[k], pair[1-k]
			group := f.a.Nodes[one].Parent
			if one == body && other != but && group > 0 && f.a.Nodes[other].Parent == group &&
				!f.movesElsewhere(other, body) {
				list = append(list, other)
			}
		}
	}
	return list
}

// movesElsewhere reports whether a part is the body of a joint on something else than a base.
func (f *finder) movesElsewhere(node, base int) bool {
	for i := range f.found.Joints {
		if j := &f.found.Joints[i]; f.index[j.Body] == node && f.index[j.Base] != base {
			return true
		}
	}
	return false
}

// evenAbout reports whether an outline is as far from its axis on all sides.
func evenAbout(o outline) bool {
	low, high := math.Inf(1), 0.0
	for _, p := range o {
		d := math.Hypot(p[0], p[1])
		low, high = min(low, d), max(high, d)
	}
	return high-low < notRound*high
}

// lift is how far a follower goes, mm or degrees.
func lift(table [][2]float64) float64 {
	low, high := 0.0, 0.0
	for _, row := range table {
		low, high = min(low, row[1]), max(high, row[1])
	}
	return high - low
}

func (f *finder) name(id assembly.NodeID) string { return f.a.Nodes[f.index[id]].Name }

func (f *finder) runCam(cam, follower *FoundJoint, t *touch, table [][2]float64) {
	unit, sure := "mm", 0.6
	if follower.Kind.Turns() {
		unit = "degrees"
	}
	if t.apart < onCam {
		sure = 0.7
	}
	f.found.Couplings = append(f.found.Couplings, FoundCoupling{
		Coupling: assembly.Coupling{
			ID:   idOf(follower.ID, cam.ID),
			Name: fmt.Sprintf("%s and %s", f.name(cam.Body), f.name(follower.Body)),
			Kind: assembly.Cam, Joint: follower.ID, By: cam.ID, Table: table,
		},
		Confidence: min(sure, follower.Confidence+0.2),
		Why: fmt.Sprintf(
			"%s lies on the outline of %s, which is not round about its axis: %.3g %s there and back in a turn",
			f.a.Nodes[t.node].Name,
			f.name(cam.Body),
			lift(table),
			unit,
		),
	})
}
