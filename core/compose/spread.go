package compose

import (
	"cmp"
	"errors"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// spread pulls nodes apart with even gaps along a direction. A spread orders them by where they are on the stage and
// takes the outermost to the distance, or, by gaps, each so much further than the one before it; a peel takes them as
// they were picked, outermost first, and each layer carries everything outside it by the distance.
func (c *composer) spread() error {
	if len(c.w.Nodes) < 2 {
		return errors.New("a spread needs at least two parts: pick more of them")
	}
	m, err := c.movement()
	if err != nil {
		return err
	}
	along, ok := space.Normalize(c.inWorld(&m))
	if !ok {
		return errors.New("a spread needs a direction")
	}
	nodes := slices.Clone(m.nodes)
	if c.w.Do == AddPeel {
		slices.Reverse(nodes)
	} else {
		at := func(id assembly.NodeID) float64 {
			i := c.Index[id]
			return r3.Dot(along, c.Frame.World[i].Apply(c.Boxes[i].Centre()))
		}
		slices.SortStableFunc(nodes, func(a, b assembly.NodeID) int { return cmp.Compare(at(a), at(b)) })
	}
	gap := m.distance
	if c.w.Do == AddSpread && !c.w.On {
		gap /= float64(len(nodes))
	}
	inWhole := space.Vec3Of(c.Frame.World[0].R.ApplyInverse(along))
	var cues []reveal.Cue
	for i, id := range nodes {
		cue := m.cue(reveal.KindPull)
		cue.Targets, cue.Of = []assembly.NodeID{id}, ""
		cue.Pull = &reveal.Pull{Axes: reveal.AssemblyAxes, Along: inWhole, Distance: gap * float64(i+1)}
		cues = append(cues, cue)
	}
	return c.moving(&m, cues...)
}

// inWorld is the direction of a movement in the world, as its axes stand on the stage.
func (c *composer) inWorld(m *movement) space.Vec {
	of := 0
	switch first := c.Index[m.nodes[0]]; m.way.Axes {
	case reveal.OwnAxes:
		of = first
	case reveal.ParentAxes:
		of = max(c.Assembly.Nodes[first].Parent, 0)
	case reveal.ReferenceAxes:
		of = c.Index[m.way.Of]
	}
	return c.Frame.World[of].R.Apply(m.way.Along.Vec())
}
