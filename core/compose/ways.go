package compose

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
)

// Subject is what operations are done on, and what they can know of it.
type Subject struct {
	Reveal   *reveal.Reveal
	Assembly *assembly.Assembly
	// Film is the reveal's, nil where only steps and cues count. Frame is what is on the stage.
	Film  *film.Film
	Frame *film.Frame
	// Index is where each node is in the assembly, Boxes are around its parts in its own frame, mm.
	Index map[assembly.NodeID]int
	Boxes []space.Box
	// Survey is what is known of the parts, nil while they are being looked at.
	Survey *survey.Survey
}

var errNothing = errors.New("nothing is open")

// Direction is one of a movement, and the axes that it is in.
type Direction struct {
	Axes  reveal.Axes `json:"axes"`
	Along space.Vec3  `json:"along"`
	// Of is the node whose axes they are, where these are another's.
	Of assembly.NodeID `json:"of,omitempty"`
	// Pivot is a point of the axis of a turn, in the same axes, where it is not the
	// middle of the picked part.
	Pivot *space.Vec3 `json:"pivot,omitempty"`
}

// ID names the way by what it is: the same for the same direction in the same axes.
func (w *Direction) ID() string {
	return fmt.Sprintf("%s %s %g %g %g", w.Axes, w.Of, w.Along[0], w.Along[1], w.Along[2])
}

// Offered is a way that is offered for a move.
type Offered struct {
	Direction
	// ID is the way's, Opposite that of the way back.
	ID       string `json:"id"`
	Opposite string `json:"opposite"`
	Label    string `json:"label"`
	// World is the same direction in the world, at the playhead.
	World space.Vec3 `json:"world"`
	// Usual says that a hand begins with it.
	Usual bool `json:"usual,omitempty"`
}

func offered(w Direction, label string, world space.Vec, usual bool) Offered {
	back := w
	back.Along = space.Vec3Of(r3.Scale(-1, w.Along.Vec()))
	for k := range back.Along {
		back.Along[k] += 0 // no −0 in ids
	}
	return Offered{
		Direction: w,
		ID:        w.ID(),
		Opposite:  back.ID(),
		Label:     label,
		World:     space.Vec3Of(world),
		Usual:     usual,
	}
}

// Ways is what is offered for the picked nodes: directions, and the point of
// their own frames about which a turn makes sense.
type Ways struct {
	Ways []Offered `json:"ways"`
	// Centre is the middle of the picked parts at the playhead, in the world.
	Centre space.Vec3 `json:"centre"`
	// Pivot is the middle of the first node in its own frame, at rest.
	Pivot space.Vec3 `json:"pivot"`
	// Distance is a sensible length for a move, mm: about their size.
	Distance float64 `json:"distance"`
	// Thread is what an unscrew of the first node needs, where its shape seems
	// to be a screw or a nut.
	Thread *KnownThread `json:"thread,omitempty"`
	// Joint is the name of the joint by which the first node is driven, empty where it is on none.
	Joint string `json:"joint,omitempty"`
}

// Thread is how a fastener comes out of its seat, in its own frame.
type KnownThread struct {
	Size       string     `json:"size"`
	Along      space.Vec3 `json:"along"` // out of the seat
	Pivot      space.Vec3 `json:"pivot"`
	Lead       float64    `json:"lead"`  // mm a turn
	Turns      float64    `json:"turns"` // the length of the thread, whole turns
	Confidence float64    `json:"confidence"`
}

// thread is nil where the node's shape is not known to have one.
func (s *Subject) thread(node int) *KnownThread {
	shape := s.Assembly.Nodes[node].Shape
	if s.Survey == nil || shape < 0 {
		return nil
	}
	g := s.Survey.Shapes[shape].Fastener
	if g == nil || g.Lead == 0 {
		return nil
	}
	return &KnownThread{
		Size:       g.Size,
		Along:      g.Out,
		Pivot:      g.Origin,
		Lead:       g.Lead,
		Turns:      max(1, math.Round(g.Length/g.Lead)),
		Confidence: g.Confidence,
	}
}

// Ways offers directions for nodes, as they stand on the stage.
func (s *Subject) Ways(nodes []assembly.NodeID) (Ways, error) {
	w := Ways{Ways: []Offered{}}
	if s.Frame == nil {
		return w, errNothing
	}
	first := -1
	for _, id := range nodes {
		if i, ok := s.Index[id]; ok {
			first = i
			break
		}
	}
	if first < 0 {
		return w, nil
	}
	all := s.around(nodes)
	size := all.Size()
	w.Centre = space.Vec3Of(all.Centre())
	w.Distance = math.Max(5, math.Round(max(size.X, size.Y, size.Z)/5)*5)
	w.Pivot = space.Vec3Of(s.Boxes[first].Centre())
	w.Thread = s.thread(first)
	if j, err := s.JointOf(s.Assembly.Nodes[first].ID); err == nil {
		w.Joint = j.Name
	}
	for _, axes := range []reveal.Axes{reveal.OwnAxes, reveal.ParentAxes, reveal.AssemblyAxes} {
		frame := &s.Frame.World[first].R
		switch p := s.Assembly.Nodes[first].Parent; {
		case axes == reveal.ParentAxes && p >= 0:
			frame = &s.Frame.World[p].R
		case axes == reveal.AssemblyAxes:
			frame = &s.Frame.World[0].R
		}
		for k, name := range [3]string{"X", "Y", "Z"} {
			for _, sign := range []string{"+", "−"} {
				way := Direction{Axes: axes}
				if way.Along[k] = 1; sign == "−" {
					way.Along[k] = -1
				}
				w.Ways = append(
					w.Ways,
					offered(way, sign+name, frame.Apply(way.Along.Vec()), sign+name == "+Z"),
				)
			}
		}
	}
	return w, nil
}

// Placed is a feature of a node's shape, in its own frame.
type Placed struct {
	Node    assembly.NodeID `json:"node"`
	Feature solid.Feature   `json:"feature,omitzero"`
}

// Reference offers what one feature gives a movement of the picked nodes: both ways
// along it, in the axes of its node, so that it is found wherever that has gone when
// the movement begins; and the ways towards its node and away from it as they stand
// on the stage, in the axes of the whole assembly. A feature without a kind
// stands for the node alone.
func (s *Subject) Reference(by Placed, picked []assembly.NodeID) ([]Offered, error) {
	if s.Frame == nil {
		return nil, errNothing
	}
	i, ok := s.Index[by.Node]
	if !ok {
		return nil, fmt.Errorf("there is no node %q", by.Node)
	}
	pose := &s.Frame.World[i]
	var ways []Offered
	if f := by.Feature; f.Kind != "" {
		for k, label := range []string{"+", "−"} {
			along := r3.Scale(1-2*float64(k), f.Axis.Vec())
			way := Direction{Axes: reveal.ReferenceAxes, Of: by.Node, Along: space.Vec3Of(along), Pivot: &f.Centre}
			ways = append(ways, offered(way, label, pose.R.Apply(along), k == 0))
		}
	}
	all := s.around(picked)
	if all.Empty() {
		return ways, nil
	}
	centre := pose.Apply(s.Boxes[i].Centre())
	between := r3.Sub(centre, all.Centre())
	if towards, ok := space.Normalize(between); ok && r3.Norm(between) > 1e-3 {
		whole := s.Frame.World[0].Inverse()
		pivot := space.Vec3Of(whole.Apply(centre))
		usual := len(ways) == 0
		for k, label := range []string{"away", "to it"} {
			world := r3.Scale(2*float64(k)-1, towards)
			way := Direction{Axes: reveal.AssemblyAxes, Along: space.Vec3Of(whole.R.Apply(world)), Pivot: &pivot}
			ways = append(ways, offered(way, label, world, usual && k == 0))
		}
	}
	return ways, nil
}

// around returns the box of nodes as they stand on the stage, in the world.
func (s *Subject) around(nodes []assembly.NodeID) space.Box {
	all := space.EmptyBox
	for _, id := range nodes {
		if i, ok := s.Index[id]; ok {
			all = all.Union(s.Boxes[i].Moved(&s.Frame.World[i]))
		}
	}
	return all
}

// Fit frames nodes as they stand on the stage, or all parts that show, from where a camera looks; margin is the share
// of the frame that stays free.
func (s *Subject) Fit(
	nodes []assembly.NodeID,
	from reveal.Camera,
	aspect, margin float64,
) (reveal.Camera, error) {
	if s.Frame == nil {
		return from, errNothing
	}
	var boxes []space.Box
	for _, id := range nodes {
		if i, ok := s.Index[id]; ok {
			boxes = append(boxes, s.Boxes[i].Moved(&s.Frame.World[i]))
		}
	}
	if len(boxes) == 0 {
		for i := range s.Assembly.Nodes {
			if n := &s.Assembly.Nodes[i]; n.IsPart() && s.Frame.Opacity[i] > 0 {
				boxes = append(boxes, s.Boxes[i].Moved(&s.Frame.World[i]))
			}
		}
	}
	return film.Fit(from, aspect, margin, boxes)
}
