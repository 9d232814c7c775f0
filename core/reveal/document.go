package reveal

import (
	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Format is the value of a document's "format" field: name and version.
const Format = "slowreveal/reveal/1"

// Micros is a time or a length of time in whole microseconds.
type Micros int64

// Second is one second.
const Second Micros = 1_000_000

// StepID and CueID name a step or cue for good within its reveal.
type (
	StepID string
	CueID  string
)

// Reveal is one timed presentation of an assembly.
type Reveal struct {
	Format  string  `json:"format"`
	Title   string  `json:"title"`
	Frame   Frame   `json:"frame"`
	Opening Opening `json:"opening"`
	Steps   []Step  `json:"steps"`
}

// Frame is the output's frame, which the author sees from the start.
type Frame struct {
	Width  int `json:"width"`  // pixels, even
	Height int `json:"height"` // pixels, even
	// Rate is in frames a second.
	Rate int `json:"rate"`
}

// Aspect returns width over height.
func (f Frame) Aspect() float64 { return float64(f.Width) / float64(f.Height) }

// Opening is how everything stands before time zero.
type Opening struct {
	Camera Camera `json:"camera"`
	// LeftOut are nodes that are no part of this story: never drawn.
	LeftOut []assembly.NodeID `json:"leftOut,omitempty"`
	// Opacities are nodes that are see-through from the start.
	Opacities []NodeOpacity `json:"opacities,omitempty"`
}

// NodeOpacity gives a node an opacity from 0 to 1.
type NodeOpacity struct {
	Node    assembly.NodeID `json:"node"`
	Opacity float64         `json:"opacity"`
}

// Camera says where a camera stands and what it looks at, in the world, mm.
type Camera struct {
	Target space.Triple `json:"target"`
	// Orientation turns the camera's frame (it looks along −Z, +Y up) into
	// the world.
	Orientation space.Quat `json:"orientation"`
	// Distance is from the camera to Target, mm.
	Distance float64 `json:"distance"`
	// Lens is the focal length in mm on a frame of 36 × 24 mm.
	Lens float64 `json:"lens"`
}

// Step is one stage of the work. A step begins where the one before it ends.
type Step struct {
	ID          StepID   `json:"id"`
	Title       string   `json:"title"`
	Instruction string   `json:"instruction,omitempty"`
	Notice      *Notice  `json:"notice,omitempty"`
	Tools       []string `json:"tools,omitempty"`
	Length      Micros   `json:"length"`
	Muted       bool     `json:"muted,omitempty"`
	// Retrace, when set, makes this step run earlier ones backwards.
	Retrace *Retrace `json:"retrace,omitempty"`
	Cues    []Cue    `json:"cues,omitempty"`
}

// Notice is a step's safety message.
type Notice struct {
	Signal Signal `json:"signal"`
	Text   string `json:"text"`
}

// Signal is the signal word of a notice (ANSI Z535.6).
type Signal string

// The signal words, from the gravest to the mildest.
const (
	Danger     Signal = "DANGER"
	Warning    Signal = "WARNING"
	Caution    Signal = "CAUTION"
	NoticeWord Signal = "NOTICE"
)

// Retrace names the steps that are run backwards. They follow what those steps
// are at any time. The backward run fills the retracing step's length.
type Retrace struct {
	Steps []StepID `json:"steps"`
	// KeepCamera leaves the shots of those steps as they are.
	KeepCamera bool `json:"keepCamera,omitempty"`
}

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
)

// Camera reports whether cues of the kind move the camera and have no targets.
func (k Kind) Camera() bool { return k == KindShot || k == KindOrbit }

// Moves reports whether cues of the kind move parts.
func (k Kind) Moves() bool { return k == KindPull || k == KindTurn || k == KindUnscrew }

// Cue is one timed change inside a step. Exactly the field that its kind names
// is set.
type Cue struct {
	ID   CueID `json:"id"`
	Kind Kind  `json:"kind"`
	// Targets are the nodes that it acts on; a shot has none.
	Targets []assembly.NodeID `json:"targets,omitempty"`
	// Offset is from the start of the step. The cue may reach past its end.
	Offset Micros `json:"offset"`
	Length Micros `json:"length"`
	// Stagger delays each further target by this much.
	Stagger Micros `json:"stagger,omitempty"`
	Easing  Easing `json:"easing"`
	Muted   bool   `json:"muted,omitempty"`
	// Flow draws a flow line from where each target stood to where this cue has
	// taken it.
	Flow bool `json:"flow,omitempty"`

	Pull    *Pull    `json:"pull,omitempty"`
	Turn    *Turn    `json:"turn,omitempty"`
	Unscrew *Unscrew `json:"unscrew,omitempty"`
	Fade    *Fade    `json:"fade,omitempty"`
	Tint    *Tint    `json:"tint,omitempty"`
	Note    *Note    `json:"note,omitempty"`
	Shot    *Shot    `json:"shot,omitempty"`
	Orbit   *Orbit   `json:"orbit,omitempty"`
}

// End returns the cue's last moment, from the start of its step.
func (c *Cue) End() Micros {
	end := c.Offset + c.Length
	if n := len(c.Targets); n > 1 {
		end += Micros(n-1) * c.Stagger
	}
	return end
}

// Axes says in whose axes a direction or pivot is written.
type Axes string

// The axes on offer.
const (
	// Own axes travel and turn with each target.
	Own Axes = "own"
	// Parent axes are those of the subassembly that holds the target.
	Parent Axes = "parent"
	// Whole axes are those of the whole assembly, the root.
	Whole Axes = "assembly"
)

// Pull moves the targets straight.
type Pull struct {
	Axes Axes `json:"axes"`
	// Along is the direction; only its direction counts.
	Along space.Triple `json:"along"`
	// Distance is in mm; a negative one goes the other way.
	Distance float64 `json:"distance"`
}

// Turn rotates the targets about a line.
type Turn struct {
	Axes Axes `json:"axes"`
	// About is the direction of the line. Seen against it (its tip pointing
	// at the viewer) a positive angle runs anticlockwise.
	About space.Triple `json:"about"`
	// Pivot is a point of the line in the same axes, mm. The origin of own
	// axes is the target's, of parent axes the parent's.
	Pivot space.Triple `json:"pivot"`
	// Degrees may be more than a revolution: 1080 are three turns.
	Degrees float64 `json:"degrees"`
}

// Unscrew turns the targets and moves them along the same axis, one lead a
// revolution.
type Unscrew struct {
	Axes  Axes         `json:"axes"`
	Along space.Triple `json:"along"` // the way out of the thread
	Pivot space.Triple `json:"pivot"`
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
	Colour space.Triple `json:"colour"` // linear RGB
	// Amount is how far: 0 leaves the finish, 1 is the colour alone.
	Amount float64 `json:"amount"`
}

// Note is a text that points at its one target for as long as the cue lasts.
type Note struct {
	Text string `json:"text"`
	// At is the point it points at, in the target's own frame, mm.
	At space.Triple `json:"at"`
}

// Shot takes the camera somewhere; it then holds until the next shot.
type Shot struct {
	Name   string `json:"name,omitempty"`
	Camera Camera `json:"camera"`
	// Keep, when set, makes the camera follow: from where the shot looks, parts
	// stay inside the frame until the next shot.
	Keep *Keep `json:"keep,omitempty"`
}

// Keep names what stays inside the frame.
type Keep struct {
	// Nodes are the parts and subassemblies; none means all that is seen.
	Nodes []assembly.NodeID `json:"nodes,omitempty"`
	// Margin is the share of the frame's half that stays empty around them.
	Margin float64 `json:"margin"`
}

// Orbit circles the camera about what it looks at.
type Orbit struct {
	About space.Triple `json:"about"` // direction of the axis, in the world
	// Degrees may be more than a revolution; a positive angle turns as a Turn
	// does.
	Degrees float64 `json:"degrees"`
}
