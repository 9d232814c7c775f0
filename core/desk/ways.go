package desk

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Way is a direction that is offered for a move.
type Way struct {
	Label string       `json:"label"`
	Axes  reveal.Axes  `json:"axes"`
	Along space.Triple `json:"along"`
	// Of is the node whose axes they are, where these are another's.
	Of assembly.NodeID `json:"of,omitempty"`
	// World is the same direction in the world, at the playhead.
	World space.Triple `json:"world"`
	// Pivot is a point of the axis of a turn, in the same axes, where it is not the
	// middle of the picked part.
	Pivot *space.Triple `json:"pivot,omitempty"`
}

// Ways is what is offered for the picked nodes: directions, and the point of
// their own frames about which a turn makes sense.
type Ways struct {
	Ways []Way `json:"ways"`
	// Centre is the middle of the picked parts at the playhead, in the world.
	Centre space.Triple `json:"centre"`
	// Pivot is the middle of the first node in its own frame, at rest.
	Pivot space.Triple `json:"pivot"`
	// Distance is a sensible length for a move, mm: about their size.
	Distance float64 `json:"distance"`
	// Thread is what an unscrew of the first node needs, where its shape seems
	// to be a screw or a nut.
	Thread *Thread `json:"thread,omitempty"`
}

// Thread is how a fastener comes out of its seat, in its own frame.
type Thread struct {
	Size  string       `json:"size"`
	Along space.Triple `json:"along"` // out of the seat
	Pivot space.Triple `json:"pivot"`
	Lead  float64      `json:"lead"`  // mm a turn
	Turns float64      `json:"turns"` // the length of the thread, whole turns
	Sure  float64      `json:"sure"`
}

func (d *Desk) thread(node int) *Thread {
	shape := d.assembly.Nodes[node].Shape
	if d.survey == nil || shape < 0 {
		return nil
	}
	g := d.survey.Shapes[shape].Fastener
	if g == nil || g.Lead == 0 {
		return nil
	}
	return &Thread{
		Size:  g.Size,
		Along: g.Out,
		Pivot: g.Origin,
		Lead:  g.Lead,
		Turns: max(1, math.Round(g.Length/g.Lead)),
		Sure:  g.Sure,
	}
}

func (d *Desk) ways(nodes []assembly.NodeID) (Ways, error) {
	var w Ways
	if d.assembly == nil {
		return w, errClosed
	}
	fr := d.seen()
	all, first := space.Nothing, -1
	for _, id := range nodes {
		if i, ok := d.index[id]; ok {
			all = all.Union(d.boxes[i].Moved(&fr.World[i]))
			if first < 0 {
				first = i
			}
		}
	}
	if first < 0 {
		return w, nil
	}
	size := all.Size()
	w.Centre = space.TripleOf(all.Centre())
	w.Distance = math.Max(5, math.Round(max(size.X, size.Y, size.Z)/5)*5)
	w.Pivot = space.TripleOf(d.boxes[first].Centre())
	w.Thread = d.thread(first)
	names := [3]string{"X", "Y", "Z"}
	for _, axes := range []reveal.Axes{reveal.Own, reveal.Parent, reveal.Whole} {
		frame := &fr.World[first].R
		switch p := d.assembly.Nodes[first].Parent; {
		case axes == reveal.Parent && p >= 0:
			frame = &fr.World[p].R
		case axes == reveal.Whole:
			frame = &fr.World[0].R
		}
		for k := range 3 {
			for _, sign := range []float64{1, -1} {
				var along space.Triple
				along[k] = sign
				label := "+" + names[k]
				if sign < 0 {
					label = "−" + names[k]
				}
				w.Ways = append(
					w.Ways,
					Way{Label: label, Axes: axes, Along: along, World: space.TripleOf(frame.Apply(along.Vec()))},
				)
			}
		}
	}
	return w, nil
}

// reference offers what one feature gives a movement of the picked nodes: both ways
// along it, in the axes of its node, so that it is found wherever that has gone when
// the movement begins; and the ways towards its node and away from it as they stand
// at the playhead, in the axes of the whole assembly. A feature without a kind
// stands for the node alone.
func (d *Desk) reference(features []PlacedFeature, picked []assembly.NodeID) ([]Way, error) {
	if d.shown == nil || len(features) != 1 {
		return nil, errClosed
	}
	of := features[0].Node
	i, ok := d.index[of]
	if !ok {
		return nil, fmt.Errorf("there is no node %q", of)
	}
	pose := &d.shown.World[i]
	var ways []Way
	if f := features[0].Feature; f.Kind != "" {
		for k, label := range []string{"+", "−"} {
			along := r3.Scale(1-2*float64(k), f.Axis.Vec())
			ways = append(
				ways,
				Way{
					Label: label,
					Axes:  reveal.Other,
					Of:    of,
					Along: space.TripleOf(along),
					World: space.TripleOf(pose.R.Apply(along)),
					Pivot: &f.Centre,
				},
			)
		}
	}
	all := d.around(picked)
	if all.Empty() {
		return ways, nil
	}
	centre := pose.Apply(d.boxes[i].Centre())
	between := r3.Sub(centre, all.Centre())
	if towards, ok := space.Unit(between); ok && r3.Norm(between) > 1e-3 {
		whole := d.shown.World[0].Inverse()
		pivot := space.TripleOf(whole.Apply(centre))
		for k, label := range []string{"away", "to it"} {
			world := r3.Scale(2*float64(k)-1, towards)
			ways = append(
				ways,
				Way{
					Label: label,
					Axes:  reveal.Whole,
					Along: space.TripleOf(whole.R.Apply(world)),
					World: space.TripleOf(world),
					Pivot: &pivot,
				},
			)
		}
	}
	return ways, nil
}

// around returns the box of nodes as they stand at the playhead, in the world.
func (d *Desk) around(nodes []assembly.NodeID) space.Box {
	all := space.Nothing
	for _, id := range nodes {
		if i, ok := d.index[id]; ok {
			all = all.Union(d.boxes[i].Moved(&d.shown.World[i]))
		}
	}
	return all
}
