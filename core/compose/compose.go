package compose

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Operation is what is to be done; which fields count depends on Do.
type Operation struct {
	Do     OperationKind  `json:"do"`
	StepID reveal.StepID  `json:"stepId,omitempty"`
	CueIDs []reveal.CueID `json:"cueIds,omitempty"`
	// At is a time in the step.
	At reveal.Micros `json:"at,omitempty"`
	// Time is a time of the film: the step that runs then is meant, and the time in it.
	Time reveal.Micros `json:"time,omitempty"`
	// By is a length of time.
	By reveal.Micros `json:"by,omitempty"`
	// Factor stretches time, 1 leaves it.
	Factor float64 `json:"factor,omitempty"`
	// Nodes are what new cues act on.
	Nodes []assembly.NodeID `json:"nodes,omitempty"`
	// Fresh begins the ids of whatever is new; it must be unused.
	Fresh string `json:"fresh,omitempty"`
	// Cues are what is pasted, with their offsets from the first.
	Cues []reveal.Cue `json:"cues,omitempty"`
	// Starts are times of the film.
	Starts []reveal.Micros `json:"starts,omitempty"`
	// Edge is the end of a bar that is moved.
	Edge edit.Edge `json:"edge,omitempty"`
	// Way and Distance (mm) are where a movement goes, the usual ones when left out. Secondary is a direction, in the
	// axes of Way, that a pull goes along at the same time, and a route after the first.
	Way       *Direction  `json:"way,omitempty"`
	Distance  float64     `json:"distance,omitempty"`
	Secondary *reveal.Leg `json:"secondary,omitempty"`
	// Camera is where the author looks from: the camera of a new shot; beside a movement, one that follows it is made.
	Camera *reveal.Camera `json:"camera,omitempty"`
	// Text is a card's title, a note's words, the name of the shot beside a movement.
	Text string `json:"text,omitempty"`
	// Point is what a note points at, in its part's own frame, mm; the part's middle when left out.
	Point *space.Vec3 `json:"point,omitempty"`
	// Opacity is 0…1.
	Opacity float64 `json:"opacity,omitempty"`
	// How is in which way a joint is driven, Joint the joint.
	How   reveal.DriveHow  `json:"how,omitempty"`
	Joint assembly.JointID `json:"joint,omitempty"`
	// On says which of two an operation does.
	On bool `json:"on,omitempty"`
}

// OperationKind names an operation.
type OperationKind string

// The operations. What makes something makes it at Time, under ids that begin with Fresh.
const (
	SplitStep     OperationKind = "splitStep"     // Time, Fresh: cues that begin there or later go into the new step
	JoinStep      OperationKind = "joinStep"      // StepID: with the one that follows
	DuplicateStep OperationKind = "duplicateStep" // StepID, Fresh
	FitStep       OperationKind = "fitStep"       // StepID: as long as its cues
	BySpeed       OperationKind = "bySpeed"       // StepID, On: what it runs backwards goes so many times as fast, or takes so long; it lasts as before
	AddStep       OperationKind = "addStep"       // StepID, Fresh: behind it, at the end without one
	InsertTime    OperationKind = "insertTime"    // StepID, At, By: everything later in the step moves along
	InsertHere    OperationKind = "insertHere"    // Time, By; StepID: at its end where Time is not in it
	AddMarker     OperationKind = "addMarker"     // Time
	OpenHere      OperationKind = "openHere"      // Time: the reveal opens as it is then
	Suppress      OperationKind = "suppress"      // Nodes, On: left out from the opening on, or there again
	OpenFaded     OperationKind = "openFaded"     // Nodes, Opacity: that of the opening
	AlignStarts   OperationKind = "alignStarts"   // CueIDs: to the earliest
	AlignEnds     OperationKind = "alignEnds"     // CueIDs: to the latest
	MakeRoom      OperationKind = "makeRoom"      // CueIDs, one: what begins with it or later in its step begins when it has ended
	Shift         OperationKind = "shift"         // CueIDs, By: a cue that leaves its step's time goes into the step that runs then
	Begin         OperationKind = "begin"         // CueIDs, Starts: each begins at its time, as Shift
	Stretch       OperationKind = "stretch"       // CueIDs, By, Edge: one end of each, as Shift
	Distribute    OperationKind = "distribute"    // CueIDs: even gaps between their starts
	SameLength    OperationKind = "sameLength"    // CueIDs: that of the first
	ScaleTime     OperationKind = "scaleTime"     // CueIDs, Factor: about the earliest start
	Paste         OperationKind = "paste"         // Time, Cues, Nodes: onto these where there are some
	MakeTwins     OperationKind = "makeTwins"     // Time, CueIDs, Nodes: the first of the new ones starts there
	PartTwins     OperationKind = "partTwins"     // CueIDs: each gets settings of its own
	DuplicateCues OperationKind = "duplicateCues" // CueIDs, Fresh: each right behind its own
	RemoveCues    OperationKind = "removeCues"    // CueIDs: where one of several twins goes, the others stay as they are
	RemoveStep    OperationKind = "removeStep"    // StepID, as RemoveCues; steps that run it backwards do so no longer
	PasteBack     OperationKind = "pasteBack"     // Time, CueIDs: copies that take back what the cues did
	TurnRound     OperationKind = "turnRound"     // CueIDs: movements run the other way, of twins those of all
	BackTogether  OperationKind = "backTogether"  // Fresh, By, Factor: a pause, then everything backwards, so many times as fast; the usual ones when left out
	Stagger       OperationKind = "stagger"       // CueIDs: each further target comes a little later, or all at once again
	SetTargets    OperationKind = "setTargets"    // CueIDs, Nodes, On: these are acted on too, or no longer
	TakeAlong     OperationKind = "takeAlong"     // Nodes: what no cue acts on goes with others of the same shape
	Mute          OperationKind = "mute"          // CueIDs: off, or on where all of them are off
	AtOnce        OperationKind = "atOnce"        // CueIDs, On: they take no time, or that of a transition again
	PullOut       OperationKind = "pullOut"       // CueIDs, Fresh: unscrewed parts go straight on where their threads end
	ThenOn        OperationKind = "thenOn"        // CueIDs: pulls become routes, which go on aside
	Sideways      OperationKind = "sideways"      // CueIDs, On: pulls also go sideways, or no longer
	UntilClear    OperationKind = "untilClear"    // CueIDs, On, Distance: pulls go until what they move is clear, and so much farther
	AddLeg        OperationKind = "addLeg"        // CueIDs: routes go on
	DriveHow      OperationKind = "driveHow"      // CueIDs, How: joints are driven in another way
	DriveJoint    OperationKind = "driveJoint"    // CueIDs, Joint: another joint is driven

	// What acts on Nodes, or, without them, on what CueIDs act on, right behind these.
	AddPull       OperationKind = "pull"       // Way, Distance, Secondary, Camera
	AddTurn       OperationKind = "turn"       // Way, Camera
	AddUnscrew    OperationKind = "unscrew"    // Way, Camera
	AddUnscrewOut OperationKind = "unscrewOut" // Way, Distance, Camera: and straight out, one after the other
	AddRoute      OperationKind = "route"      // Way, Distance, Secondary, Camera
	AddSpread     OperationKind = "spread"     // Way, Distance, Camera: apart, in the order in which they stand; On: so far each
	AddPeel       OperationKind = "peel"       // Way, Distance, Camera: in the order of Nodes
	AddFade       OperationKind = "fade"
	AddHide       OperationKind = "hide" // at once
	AddShow       OperationKind = "show" // again, solid
	AddTint       OperationKind = "tint"
	AddSurface    OperationKind = "surface"
	AddNote       OperationKind = "note"   // Text, Point: at the first of them
	AddDrive      OperationKind = "drive"  // the joint that they are on, or the one that drives it: a turn, or so far
	AddRun        OperationKind = "run"    // on and on, until it is driven otherwise
	AddHalt       OperationKind = "halt"   // what runs comes to a stop
	AddArrow      OperationKind = "arrow"  // which way they go from here on
	AddCauses     OperationKind = "causes" // what the joint that they are on drives lights up, part after part

	AddCard  OperationKind = "card"  // Text
	AddShot  OperationKind = "shot"  // Camera
	AddOrbit OperationKind = "orbit" // once around
)

// Composed is what an operation comes to.
type Composed struct {
	Command edit.Command `json:"command"`
	// Made are the cues that are new, Step a step that is.
	Made []reveal.CueID `json:"made,omitempty"`
	Step reveal.StepID  `json:"step,omitempty"`
	// Moves says that the new cues move parts.
	Moves bool `json:"moves,omitempty"`
	// Marked is the step that has got a marker, Marker the marker's index in it.
	Marked reveal.StepID `json:"marked,omitempty"`
	Marker int           `json:"marker,omitempty"`
	// Beside says that a new card lies over what happens beside it.
	Beside bool `json:"beside,omitempty"`
	// Off is how many cues are switched off because what they did is in the opening now.
	Off int `json:"off,omitempty"`
}

// operations is the one list of what can be done.
var operations map[OperationKind]func(*composer) error

func init() { // operations are made of one another
	operations = map[OperationKind]func(*composer) error{
		SplitStep: (*composer).split, JoinStep: (*composer).join, DuplicateStep: (*composer).duplicate,
		FitStep: (*composer).fitStep, BySpeed: (*composer).bySpeed,
		AddStep: (*composer).addStep, InsertTime: (*composer).insertTimeAt, InsertHere: (*composer).insertHere,
		AddMarker: (*composer).addMarker, OpenHere: (*composer).openHere, Suppress: (*composer).suppress,
		OpenFaded: (*composer).openFaded, AlignStarts: (*composer).cues, AlignEnds: (*composer).cues,
		MakeRoom: (*composer).makeRoom, Shift: (*composer).shiftBy, Begin: (*composer).begin,
		Stretch: (*composer).stretch, Distribute: (*composer).cues, SameLength: (*composer).cues,
		ScaleTime: (*composer).cues, Paste: (*composer).paste, MakeTwins: (*composer).makeTwins,
		PartTwins: (*composer).partTwins, DuplicateCues: (*composer).duplicateCues,
		RemoveCues: (*composer).removeNamed, RemoveStep: (*composer).removeStep, PasteBack: (*composer).pasteBack,
		TurnRound: (*composer).turnRound, BackTogether: (*composer).backTogether, Stagger: (*composer).stagger,
		SetTargets: (*composer).setTargets, TakeAlong: (*composer).takeAlong, Mute: (*composer).mute, AtOnce: (*composer).atOnce, PullOut: (*composer).pullOut,
		ThenOn: (*composer).thenOn, Sideways: (*composer).sideways, UntilClear: (*composer).untilClear, AddLeg: (*composer).addLeg,
		DriveHow: (*composer).driveHow, DriveJoint: (*composer).driveJoint,
		AddPull: (*composer).pull, AddTurn: (*composer).turn, AddUnscrew: (*composer).unscrew,
		AddUnscrewOut: (*composer).unscrewOut, AddRoute: (*composer).route, AddSpread: (*composer).spread,
		AddPeel: (*composer).spread, AddFade: (*composer).fade, AddHide: (*composer).fade, AddShow: (*composer).fade,
		AddTint: (*composer).tint, AddSurface: (*composer).surface, AddNote: (*composer).note,
		AddDrive: (*composer).drive, AddRun: (*composer).drive, AddHalt: (*composer).drive,
		AddArrow: (*composer).arrow, AddCauses: (*composer).causes,
		AddCard: (*composer).card, AddShot: (*composer).shot, AddOrbit: (*composer).orbit,
	}
}

// Kinds lists the operations, in the order of their names.
func Kinds() []OperationKind { return slices.Sorted(maps.Keys(operations)) }

// Apply returns the command that performs an operation on the subject's reveal.
func Apply(s *Subject, o Operation) (Composed, error) {
	c := &composer{Subject: s, r: s.Reveal, w: o}
	do, ok := operations[o.Do]
	if !ok {
		return Composed{}, fmt.Errorf("%q is no operation", o.Do)
	}
	if err := do(c); err != nil {
		return Composed{}, err
	}
	if len(c.out) == 0 {
		return Composed{}, errors.New("there is nothing to change")
	}
	c.done.Command = edit.Command{Op: edit.Batch, Commands: c.out}
	return c.done, nil
}

type composer struct {
	*Subject
	r    *reveal.Reveal
	w    Operation
	out  []edit.Command
	done Composed
	made int // things that have got an id
}

func (c *composer) add(command edit.Command) { c.out = append(c.out, command) }
