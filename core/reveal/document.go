package reveal

import (
	"math"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Format is the value of a document's "format" field: name and version.
const Format = "slowreveal/reveal/2"

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
	// Captions says how a film shows the words of its steps; nil is the usual way.
	Captions *Captions `json:"captions,omitempty"`
	// Proof says what its checks let be; nil is the usual way.
	Proof *Proof `json:"proof,omitempty"`
	// Variants says how it is shown in the product's variants; nil is the usual way: as each has it, gaps closed.
	Variants *Variants `json:"variants,omitempty"`
}

// Variants is how a reveal is shown in the variants of the product.
type Variants struct {
	// For is the variant that it is for where nobody asks for another one; empty for the whole assembly.
	For assembly.VariantID `json:"for,omitempty"`
	// KeepGaps leaves the time of steps that a variant has nothing to do in; without it they take none.
	KeepGaps bool `json:"keepGaps,omitempty"`
}

// Wording is what a step says in one variant; what is empty it says as usual.
type Wording struct {
	Variant     assembly.VariantID `json:"variant"`
	Title       string             `json:"title,omitempty"`
	Instruction string             `json:"instruction,omitempty"`
}

// Proof is what the author has decided about the checks of package proof.
type Proof struct {
	// Limits are by the check's name, in its unit, where they are not the usual ones.
	Limits map[string]float64 `json:"limits,omitempty"`
	// Accepted are findings that are meant so.
	Accepted []Accepted `json:"accepted,omitempty"`
}

// Accepted is a finding that the author lets be. It stays accepted while the check finds the same parts by one of the
// same cues, and not worse than it was.
type Accepted struct {
	Check  string            `json:"check"`
	Parts  []assembly.NodeID `json:"parts,omitempty"`
	Cues   []CueID           `json:"cues,omitempty"`
	Worse  float64           `json:"worse"` // how bad it was
	Reason string            `json:"reason"`
}

// Same reports whether two are about the same finding.
func (a *Accepted) Same(b *Accepted) bool {
	return a.Check == b.Check && slices.Equal(a.Parts, b.Parts) && slices.Equal(a.Cues, b.Cues)
}

// Captions is how the words of the steps are set into the picture.
type Captions struct {
	Show  Words `json:"show"`
	Place Place `json:"place"`
	// Size multiplies the size of the letters, 0.5…2.
	Size float64 `json:"size"`
	// Backing lays paper under the words.
	Backing bool `json:"backing,omitempty"`
}

// UsualCaptions are those of a reveal that does not say otherwise.
var UsualCaptions = Captions{Show: AllWords, Place: LowerLeft, Size: 1, Backing: true}

// CaptionStyle returns how the reveal sets the words of its steps.
func (r *Reveal) CaptionStyle() Captions {
	if r.Captions == nil {
		return UsualCaptions
	}
	return *r.Captions
}

// Words says which of a step's words are shown.
type Words string

// What is shown of a step.
const (
	AllWords  Words = "all"    // title and instruction
	TitleOnly Words = "titles" // the title
	NoWords   Words = "none"
)

// Place is where words stand inside the safe area.
type Place string

// The places.
const (
	LowerLeft   Place = "lower-left"
	LowerMiddle Place = "lower-middle"
	UpperLeft   Place = "upper-left"
)

// Frame is the output's frame, which the author sees from the start.
type Frame struct {
	Width  int `json:"width"`  // pixels, even
	Height int `json:"height"` // pixels, even
	// Rate is in frames a second.
	Rate int `json:"rate"`
	// NoOcclusion leaves parts as bright as they are where they come near one another.
	NoOcclusion bool `json:"noOcclusion,omitempty"`
}

// Aspect returns width over height.
func (f Frame) Aspect() float64 { return float64(f.Width) / float64(f.Height) }

// Draft is the frame of a rough film: at most 640 pixels large, its sides even, of at most 15 pictures a second.
func (f Frame) Draft() Frame {
	const largest, least, rate = 640, 16, 15
	small := min(1, largest/float64(max(f.Width, f.Height)))
	even := func(n int) int { return max(least, 2*int(math.Round(float64(n)*small/2))) }
	f.Width, f.Height, f.Rate = even(f.Width), even(f.Height), min(f.Rate, rate)
	return f
}

// Opening is how everything stands before time zero.
type Opening struct {
	Camera Camera `json:"camera"`
	// Suppressed are nodes that are no part of this story: never drawn.
	Suppressed []assembly.NodeID `json:"suppressed,omitempty"`
	// Opacities are nodes that are see-through from the start.
	Opacities []NodeOpacity `json:"opacities,omitempty"`
	// Tints are nodes that have another colour from the start.
	Tints []NodeTint `json:"tints,omitempty"`
	// Poses are nodes that stand elsewhere than in the assembly from the start.
	Poses []NodePose `json:"poses,omitempty"`
	// Surfaces are nodes that are drawn in another way from the start.
	Surfaces []NodeSurface `json:"surfaces,omitempty"`
}

// NodeOpacity gives a node an opacity from 0 to 1.
type NodeOpacity struct {
	Node    assembly.NodeID `json:"node"`
	Opacity float64         `json:"opacity"`
}

// NodeTint gives a node a colour.
type NodeTint struct {
	Node assembly.NodeID `json:"node"`
	Tint
}

// NodePose puts a node somewhere in its parent.
type NodePose struct {
	Node assembly.NodeID `json:"node"`
	Pose assembly.Pose   `json:"pose"`
}

// NodeSurface gives a node a way of being drawn.
type NodeSurface struct {
	Node  assembly.NodeID `json:"node"`
	Style Style           `json:"style"`
}

// Camera says where a camera stands and what it looks at, in the world, mm.
type Camera struct {
	Target space.Vec3 `json:"target"`
	// Orientation turns the camera's frame (it looks along −Z, +Y up) into
	// the world.
	Orientation space.Quat `json:"orientation"`
	// Distance is from the camera to Target, mm.
	Distance float64 `json:"distance"`
	// FocalLength is the focal length in mm on a frame of 36 × 24 mm.
	FocalLength float64 `json:"focalLength"`
	// Orthographic projects along parallel lines (orthographic): what lies at Target
	// has the size that the lens gives it there.
	Orthographic bool `json:"orthographic,omitempty"`
}

// Step is one stage of the work. A step begins where the one before it ends.
type Step struct {
	ID          StepID   `json:"id"`
	Title       string   `json:"title"`
	Instruction string   `json:"instruction,omitempty"`
	Notice      *Notice  `json:"notice,omitempty"`
	Tools       []string `json:"tools,omitempty"`
	// Wordings are other words in some of the product's variants, at most one for each.
	Wordings []Wording `json:"wordings,omitempty"`
	Duration Micros    `json:"duration"`
	// Held keeps the length where it is, also where cues that are put in end later.
	Held  bool `json:"held,omitempty"`
	Muted bool `json:"muted,omitempty"`
	// Markers are moments that the author wants to find again; no film shows them.
	Markers []Marker `json:"markers,omitempty"`
	// Retrace, when set, makes this step run earlier ones backwards.
	Retrace *Retrace `json:"retrace,omitempty"`
	Cues    []Cue    `json:"cues,omitempty"`
}

// Marker is a moment in a step.
type Marker struct {
	Offset Micros `json:"offset"` // from the start of the step
	Text   string `json:"text"`
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
// are at any time.
type Retrace struct {
	Steps []StepID `json:"steps"`
	// Speed is how many times faster the backward run goes than the way out; the
	// step then lasts as long as that takes. With 0 the run fills the step.
	Speed float64 `json:"speed,omitempty"`
	// KeepCamera leaves the shots of those steps as they are.
	KeepCamera bool `json:"keepCamera,omitempty"`
}
