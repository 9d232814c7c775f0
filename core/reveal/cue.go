package reveal

import (
	"slices"

	"slowreveal/core/assembly"
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
	KindDrive   Kind = "drive"
	KindArrow   Kind = "arrow"
)

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
	// Of is the node whose axes the cue uses, where these are ReferenceAxes.
	Of assembly.NodeID `json:"of,omitempty"`
	// Stagger delays each further target by this much.
	Stagger Micros `json:"stagger,omitempty"`
	Easing  Easing `json:"easing"`
	Muted   bool   `json:"muted,omitempty"`
	// Lost says that the cue is switched off because nothing of what it acts on is in the product any more, and what it
	// was before: when something of that comes back it is so again.
	Lost Loss `json:"lost,omitempty"`
	// Flow draws flow lines from where the targets stood to where this cue has
	// taken them, along the way that they went.
	Flow *FlowLine `json:"flow,omitempty"`
	// Leaves takes the targets of a movement off what drives them when it begins, and says what they do from then on. What
	// they drove stops. Without it what is driven goes on, wherever it is moved to.
	Leaves Leaving `json:"leaves,omitempty"`

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
	Drive   *Drive   `json:"drive,omitempty"`
	Arrow   *Arrow   `json:"arrow,omitempty"`
}

// Loss is what a cue was before all that it acts on was gone.
type Loss string

// What a cue was.
const (
	LostOn  Loss = "on"
	LostOff Loss = "off" // switched off by its author
)

// Leaving is what a part does that is taken off what drives it.
type Leaving string

// What parts do that leave.
const (
	LeavesStopping Leaving = "stops"  // it stands still at once
	LeavesCoasting Leaving = "coasts" // it comes to a stop by the end of the movement
	LeavesRunning  Leaving = "runs"   // it goes on as fast as it was
)

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
	// OwnAxes travel and turn with each target.
	OwnAxes Axes = "own"
	// ParentAxes are those of the subassembly that holds the target.
	ParentAxes Axes = "parent"
	// AssemblyAxes are those of the whole assembly, the root.
	AssemblyAxes Axes = "assembly"
	// ReferenceAxes are those of the node that the cue names in Of, where that stands
	// when the cue begins: the axis of a hole, wherever its part has gone by then.
	ReferenceAxes Axes = "reference"
)

// Axes returns the axes of a movement, "" for another kind of cue.
func (c *Cue) Axes() Axes {
	if m, ok := c.Settings().(Movement); ok {
		return *m.axes()
	}
	return ""
}

// Clone returns a copy that shares nothing with the cue.
func (c *Cue) Clone() Cue {
	own := *c
	own.Targets = slices.Clone(c.Targets)
	if c.Flow != nil {
		flow := *c.Flow
		own.Flow = &flow
	}
	for i := range kinds {
		if settings := kinds[i].get(c); settings != nil {
			kinds[i].set(&own, settings.clone())
		}
	}
	return own
}
