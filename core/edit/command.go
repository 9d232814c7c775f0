package edit

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// Op names what a command does.
type Op string

// The commands.
const (
	SetTitle       Op = "setTitle"       // Title
	SetFrame       Op = "setFrame"       // Frame
	SetCaptions    Op = "setCaptions"    // Captions
	SetOpening     Op = "setOpening"     // Opening
	SetVariants    Op = "setVariants"    // Variants: how it is shown in the product's variants; nil for the usual way
	Accept         Op = "accept"         // Accepted: a finding of the proof is let be; without a reason it is open again
	SetLimit       Op = "setLimit"       // Check, Limit: from where on the proof finds something; nil for the usual one
	InsertStep     Op = "insertStep"     // Step, Index
	RemoveStep     Op = "removeStep"     // StepID
	MoveStep       Op = "moveStep"       // StepID, Index
	SetStep        Op = "setStep"        // Step without its cues: they stay as they are, and so does its length where it is 0
	ChangeDuration Op = "changeDuration" // StepID, By: the step becomes so much longer, or shorter
	InsertCue      Op = "insertCue"      // StepID, Cue, Index
	RemoveCue      Op = "removeCue"      // CueID
	SetCue         Op = "setCue"         // Cue
	MoveCue        Op = "moveCue"        // CueID, StepID, Index
	ShiftCues      Op = "shiftCues"      // CueIDs, By
	StretchCue     Op = "stretchCue"     // CueIDs, By, Edge
	Replace        Op = "replace"        // Reveal: the whole document
	Batch          Op = "batch"          // Commands, in order, as one
)

// Edge is an end of a cue's bar.
type Edge string

// The ends of a bar.
const (
	Start Edge = "start"
	End   Edge = "end"
)

// MaxCommand is the largest command that is read, in bytes.
const MaxCommand = 8 << 20

// maxBatch bounds how many commands one command may hold, over all levels.
const maxBatch = 20_000

// Command is one change of a document. Which fields count is said at its Op.
type Command struct {
	Op      Op              `json:"op"`
	Title   *string         `json:"title,omitempty"`
	Frame   *reveal.Frame   `json:"frame,omitempty"`
	Opening *reveal.Opening `json:"opening,omitempty"`
	// Captions are nil for the usual ones.
	Captions *reveal.Captions `json:"captions,omitempty"`
	Variants *reveal.Variants `json:"variants,omitempty"`
	Accepted *reveal.Accepted `json:"accepted,omitempty"`
	Check    string           `json:"check,omitempty"`
	Limit    *float64         `json:"limit,omitempty"`
	StepID   reveal.StepID    `json:"stepId,omitempty"`
	Step     *reveal.Step     `json:"step,omitempty"`
	CueID    reveal.CueID     `json:"cueId,omitempty"`
	CueIDs   []reveal.CueID   `json:"cueIds,omitempty"`
	Cue      *reveal.Cue      `json:"cue,omitempty"`
	// Index is a place in the list of steps, or of a step's cues. After and Before are the neighbours
	// that it had there when the command was made; they count as long as they are there. Do notes them.
	Index    int            `json:"index,omitempty"`
	After    string         `json:"after,omitempty"`
	Before   string         `json:"before,omitempty"`
	By       reveal.Micros  `json:"by,omitempty"`
	Edge     Edge           `json:"edge,omitempty"`
	Reveal   *reveal.Reveal `json:"reveal,omitempty"`
	Commands []Command      `json:"commands,omitempty"`
}

// What a command is about may be gone: another author has been quicker.
var (
	ErrNoCue  = errors.New("Somebody has just deleted this cue.")
	ErrNoStep = errors.New("Somebody has just deleted this step.")
)

// Parse reads a command and refuses unknown fields and anything behind it.
func Parse(data []byte) (Command, error) {
	var c Command
	if len(data) > MaxCommand {
		return c, fmt.Errorf("the command has %d bytes; the limit is %d", len(data), MaxCommand)
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&c); err != nil {
		return c, fmt.Errorf("reading the command: %w", err)
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return c, errors.New("reading the command: there is something behind its end")
	}
	return c, nil
}

// Do applies c to r and validates the outcome against the assembly. On an
// error r is as it was. The returned command undoes the change.
func Do(r *reveal.Reveal, a *assembly.Assembly, c Command) (inverse Command, err error) {
	return DoNoting(r, a, &c)
}

// DoNoting is Do that also notes in c what it puts things beside, so that c means the same where others
// have changed the list.
func DoNoting(r *reveal.Reveal, a *assembly.Assembly, c *Command) (inverse Command, err error) {
	inverse, err = apply(r, c, new(int))
	if err != nil {
		return inverse, err
	}
	if c.Op == ShiftCues || c.Op == StretchCue {
		err = reveal.ValidateTiming(r) // nothing else can have become wrong
	} else {
		err = reveal.Validate(r, a)
	}
	if err != nil {
		if _, undo := apply(r, &inverse, new(int)); undo != nil {
			panic("edit: an inverse does not apply: " + undo.Error())
		}
		return Command{}, err
	}
	return inverse, nil
}

// Describe says in a few words what the command does, for histories.
func Describe(c Command) string {
	if c.Op == Batch && len(c.Commands) > 0 {
		return describeBatch(c.Commands)
	}
	words := map[Op]string{
		SetTitle:       "rename the reveal",
		SetFrame:       "change the frame",
		SetOpening:     "change the opening",
		SetCaptions:    "change the captions",
		SetVariants:    "say how variants are shown",
		Accept:         "accept a finding",
		SetLimit:       "set a limit of the proof",
		Replace:        "go back to another version",
		InsertStep:     "add a step",
		RemoveStep:     "remove a step",
		MoveStep:       "move a step",
		SetStep:        "change a step",
		ChangeDuration: "change the length of a step",
		InsertCue:      "add a cue",
		RemoveCue:      "remove a cue",
		SetCue:         "change a cue",
		MoveCue:        "move a cue to another step",
		ShiftCues:      "shift cues",
		StretchCue:     "stretch cues",
	}
	if c.Op == Accept && c.Accepted != nil && c.Accepted.Reason == "" {
		return "open a finding again"
	}
	if c.Cue != nil && c.Op == InsertCue {
		return "add " + aKind(c.Cue)
	}
	if c.Cue != nil && c.Op == SetCue && c.Cue.Kind != "" {
		return "change " + aKind(c.Cue)
	}
	return words[c.Op]
}

func aKind(c *reveal.Cue) string {
	if strings.ContainsRune("aeiou", rune((c.Kind + " ")[0])) {
		return "an " + string(c.Kind)
	}
	return "a " + string(c.Kind)
}

// describeBatch leaves out what only follows from something else: that steps grow with their cues, and
// where a cue lies in the step that it has been moved into.
func describeBatch(list []Command) string {
	first, others, alike := Describe(list[0]), 0, 1
	for i := 1; i < len(list); i++ {
		c, before := &list[i], &list[i-1]
		if c.Op == ChangeDuration ||
			c.Op == SetCue && before.Op == MoveCue && c.Cue != nil && c.Cue.ID == before.CueID {
			continue
		}
		if Describe(*c) == first {
			alike++
		} else {
			others++
		}
	}
	switch {
	case others > 0:
		return fmt.Sprintf("%s and %d more", first, others+alike-1)
	case alike > 1:
		return fmt.Sprintf("%s, %d times", first, alike)
	}
	return first
}
