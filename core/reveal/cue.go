package reveal

import (
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Kind says what a cue does.
type Kind string

// The kinds of cue.
const (
	KindPull    Kind = "pull"
	KindTurn    Kind = "turn"
	KindUnscrew Kind = "unscrew"
	KindFade    Kind = "fade"
	KindTint    Kind = "tint"
	KindNote    Kind = "note"
	KindShot    Kind = "shot"
	KindOrbit   Kind = "orbit"
	KindRoute   Kind = "route"
	KindSurface Kind = "surface"
	KindCard    Kind = "card"
)

// Kinds lists all kinds of cue.
var Kinds = []Kind{
	KindPull,
	KindTurn,
	KindUnscrew,
	KindRoute,
	KindFade,
	KindTint,
	KindSurface,
	KindNote,
	KindCard,
	KindShot,
	KindOrbit,
}

// Camera reports whether cues of the kind move the camera.
func (k Kind) Camera() bool { return k == KindShot || k == KindOrbit }

// Targeted reports whether cues of the kind act on nodes.
func (k Kind) Targeted() bool { return !k.Camera() && k != KindCard }

// Moves reports whether cues of the kind move parts.
func (k Kind) Moves() bool {
	return k == KindPull || k == KindTurn || k == KindUnscrew || k == KindRoute
}

// Cue is one timed change inside a step. Exactly the field that its kind names
// is set, and none in a twin.
type Cue struct {
	ID   CueID `json:"id"`
	Kind Kind  `json:"kind"`
	// Twin names the cue whose settings this one shares: everything but its
	// targets, its offset and whether it is muted.
	Twin CueID `json:"twin,omitempty"`
	// Targets are the nodes that it acts on; a shot has none.
	Targets []assembly.NodeID `json:"targets,omitempty"`
	// Offset is from the start of the step. The cue may reach past its end.
	Offset Micros `json:"offset"`
	// Duration is 0 in a twin, which lasts as long as the cue that it shares.
	Duration Micros `json:"duration"`
	// Of is the node whose axes the cue uses, where these are Other.
	Of assembly.NodeID `json:"of,omitempty"`
	// Stagger delays each further target by this much.
	Stagger Micros `json:"stagger,omitempty"`
	Easing  Easing `json:"easing"`
	Muted   bool   `json:"muted,omitempty"`
	// Flow draws flow lines from where the targets stood to where this cue has
	// taken them, along the way that they went.
	Flow *FlowLine `json:"flow,omitempty"`

	Pull    *Pull    `json:"pull,omitempty"`
	Turn    *Turn    `json:"turn,omitempty"`
	Unscrew *Unscrew `json:"unscrew,omitempty"`
	Fade    *Fade    `json:"fade,omitempty"`
	Tint    *Tint    `json:"tint,omitempty"`
	Note    *Note    `json:"note,omitempty"`
	Shot    *Shot    `json:"shot,omitempty"`
	Orbit   *Orbit   `json:"orbit,omitempty"`
	Route   *Route   `json:"route,omitempty"`
	Surface *Surface `json:"surface,omitempty"`
	Card    *Card    `json:"card,omitempty"`
}

// End returns the cue's last moment, from the start of its step.
func (c *Cue) End() Micros {
	end := c.Offset + c.Duration
	if n := len(c.Targets); n > 1 {
		end += Micros(n-1) * c.Stagger
	}
	return end
}

// Axes says in whose axes a direction or pivot is written.
type Axes string

// The axes on offer.
const (
	// OwnAxes axes travel and turn with each target.
	OwnAxes Axes = "own"
	// ParentAxes axes are those of the subassembly that holds the target.
	ParentAxes Axes = "parent"
	// AssemblyAxes axes are those of the whole assembly, the root.
	AssemblyAxes Axes = "assembly"
	// ReferenceAxes axes are those of the node that the cue names in Of, where that stands
	// when the cue begins: the axis of a hole, wherever its part has gone by then.
	ReferenceAxes Axes = "reference"
)

// Axes returns the axes of a movement, "" for another kind of cue.
func (c *Cue) Axes() Axes {
	switch {
	case c.Pull != nil:
		return c.Pull.Axes
	case c.Turn != nil:
		return c.Turn.Axes
	case c.Unscrew != nil:
		return c.Unscrew.Axes
	case c.Route != nil:
		return c.Route.Axes
	}
	return ""
}

// Pull moves the targets straight.
type Pull struct {
	Axes Axes `json:"axes"`
	// Along is the direction; only its direction counts.
	Along space.Vec3 `json:"along"`
	// Distance is in mm; a negative one goes the other way.
	Distance float64 `json:"distance"`
	// Secondary, when set, goes along a second direction at the same time.
	Secondary *Leg `json:"secondary,omitempty"`
}

// Leg is a straight way.
type Leg struct {
	Along    space.Vec3 `json:"along"`    // only the direction counts
	Distance float64    `json:"distance"` // mm; a negative one goes the other way
	// Share weighs how much of a route's time the leg takes, beside the others;
	// 0 counts as 1.
	Share float64 `json:"share,omitempty"`
}

// Route takes the targets along several legs, one after the other.
type Route struct {
	Axes Axes  `json:"axes"`
	Legs []Leg `json:"legs"`
	// Radius rounds the corners: so far before a corner the way leaves its leg,
	// and so far behind it it joins the next, mm. It is cut to half of a leg.
	Radius float64 `json:"radius,omitempty"`
}

// Turn rotates the targets about a line.
type Turn struct {
	Axes Axes `json:"axes"`
	// About is the direction of the line. Seen against it (its tip pointing
	// at the viewer) a positive angle runs anticlockwise.
	About space.Vec3 `json:"about"`
	// Pivot is a point of the line in the same axes, mm. The origin of own
	// axes is the target's, of parent axes the parent's.
	Pivot space.Vec3 `json:"pivot"`
	// Degrees may be more than a revolution: 1080 are three turns.
	Degrees float64 `json:"degrees"`
}

// Unscrew turns the targets and moves them along the same axis, one lead a
// revolution.
type Unscrew struct {
	Axes  Axes       `json:"axes"`
	Along space.Vec3 `json:"along"` // the way out of the thread
	Pivot space.Vec3 `json:"pivot"`
	// Turns is the number of revolutions.
	Turns float64 `json:"turns"`
	// Lead is the advance for one revolution, mm: the pitch of a thread with
	// one start (ISO 5408).
	Lead float64 `json:"lead"`
	// LeftHand says that the thread is a left-hand one.
	LeftHand bool `json:"leftHand,omitempty"`
}

// Fade takes the opacity of the targets to a value.
type Fade struct {
	To float64 `json:"to"` // 0 gone, 1 solid
}

// Tint takes the colour of the targets towards another one.
type Tint struct {
	Colour space.Vec3 `json:"colour"` // linear RGB
	// Amount is how far: 0 leaves the finish, 1 is the colour alone.
	Amount float64 `json:"amount"`
}

// Style is a way in which parts are drawn.
type Style string

// The styles.
const (
	ShadedEdges Style = "shaded-edges" // the usual one
	Shaded      Style = "shaded"       // without edges
	EdgesOnly   Style = "edges"        // ink on paper; what is behind stays hidden
	SeeThrough  Style = "see-through"  // all edges, also those behind, and no faces
)

// Surface changes how the targets are drawn.
type Surface struct {
	Style Style `json:"style"`
}

// Card is a text over the whole picture for as long as the cue lasts.
type Card struct {
	Title string `json:"title"`
	Text  string `json:"text,omitempty"`
	// Clear leaves the picture to be seen behind the words.
	Clear bool `json:"clear,omitempty"`
}

// FlowLine says how the flow lines of a cue are drawn.
type FlowLine struct {
	Of   FlowOf   `json:"of"`
	Line LineType `json:"line,omitempty"`
	// From and To cut the line: shares of the way, 0 at the seat; To 0 is the end.
	From float64 `json:"from,omitempty"`
	To   float64 `json:"to,omitempty"`
}

// FlowOf says what has a flow line of its own.
type FlowOf string

// What flow lines are drawn of.
const (
	FlowEach FlowOf = "each"  // each target: a part or a subassembly
	FlowPart FlowOf = "parts" // each part in the targets
	FlowAll  FlowOf = "all"   // all targets together
)

// LineType is the look of a line.
type LineType string

// The line types; an empty one is dashed.
const (
	Dashed LineType = "dashed"
	Solid  LineType = "solid"
	Dotted LineType = "dotted"
)

// Note is a text that points at its one target for as long as the cue lasts.
type Note struct {
	Text string `json:"text"`
	// At is the point it points at, in the target's own frame, mm.
	At space.Vec3 `json:"at"`
}

// Shot takes the camera somewhere; it then holds until the next shot.
type Shot struct {
	Name   string `json:"name,omitempty"`
	Camera Camera `json:"camera"`
	// Via are cameras that it passes on the way, along a smooth curve.
	Via []Camera `json:"via,omitempty"`
	// ConstantSpeed passes them at a constant speed; otherwise each part of the way takes
	// the same time.
	ConstantSpeed bool `json:"constantSpeed,omitempty"`
	// Straight goes along the straight line instead of the arc about what is
	// looked at. It does not go with Via.
	Straight bool `json:"straight,omitempty"`
	// Follow, when set, makes the camera follow: from where the shot looks, parts
	// stay inside the frame until the next shot.
	Follow *Follow `json:"follow,omitempty"`
	// Shapes are cameras in the place of this one in frames of other shapes.
	Shapes []Framing `json:"shapes,omitempty"`
}

// Framing is the camera of a shot in frames of one shape.
type Framing struct {
	// Across and Down are the shape: the frame's width to its height.
	Across int    `json:"across"`
	Down   int    `json:"down"`
	Camera Camera `json:"camera"`
}

// AlikeShapes is by what share two aspects may differ and still be one shape: sizes are whole, even pixels.
const AlikeShapes = 0.004

// Framed returns the camera of a shot in frames of a shape, width over height, and whether it is one of their own.
func (s *Shot) Framed(aspect float64) (Camera, bool) {
	for i := range s.Shapes {
		f := &s.Shapes[i]
		if of := float64(f.Across) / float64(f.Down); math.Abs(of-aspect) <= AlikeShapes*aspect {
			return f.Camera, true
		}
	}
	return s.Camera, false
}

// Follow names what stays inside the frame.
type Follow struct {
	// Nodes are the parts and subassemblies; none means all that is seen.
	Nodes []assembly.NodeID `json:"nodes,omitempty"`
	// Margin is the share of the frame's half that stays empty around them.
	Margin float64 `json:"margin"`
}

// Orbit circles the camera about what it looks at.
type Orbit struct {
	About space.Vec3 `json:"about"` // direction of the axis, in the world
	// Degrees may be more than a revolution; a positive angle turns as a Turn
	// does.
	Degrees float64 `json:"degrees"`
}
