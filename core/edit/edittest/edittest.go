// Package edittest makes commands and documents by chance: what a test holds against
// the rules that nobody thought of.
package edittest

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// New returns a hand that always makes the same of the same seed.
func New(seed uint64, a *assembly.Assembly) *Hand {
	return &Hand{Rand: rand.New(rand.NewPCG(seed, 1)), a: a}
}

// Change applies commands to a document until n of them were possible.
func (h *Hand) Change(r *reveal.Reveal, n int) {
	for n > 0 {
		if _, err := edit.Do(r, h.a, h.Command(r, 0)); err == nil {
			n--
		}
	}
}

// Sorted writes a document without the order of its steps and cues: two that were added at one place lie in the
// order in which they came.
func Sorted(r *reveal.Reveal) string {
	r = reveal.Clone(r)
	for i := range r.Steps {
		slices.SortFunc(r.Steps[i].Cues, func(a, b reveal.Cue) int { return cmp.Compare(a.ID, b.ID) })
	}
	slices.SortFunc(r.Steps, func(a, b reveal.Step) int { return cmp.Compare(a.ID, b.ID) })
	return string(reveal.Write(r))
}

// Hand makes commands, possible and impossible ones, and documents.
type Hand struct {
	*rand.Rand
	made int
	a    *assembly.Assembly
}

func (h *Hand) id() string { h.made++; return fmt.Sprint("x", h.made) }

func (h *Hand) targets() []assembly.NodeID {
	ids := map[assembly.NodeID]bool{}
	for range 1 + h.IntN(4) {
		ids[h.a.Nodes[h.IntN(len(h.a.Nodes))].ID] = true
	}
	var list []assembly.NodeID
	for i := range h.a.Nodes {
		if ids[h.a.Nodes[i].ID] {
			list = append(list, h.a.Nodes[i].ID)
		}
	}
	return list
}

func (h *Hand) cue() reveal.Cue {
	c := reveal.Cue{
		ID:       reveal.CueID(h.id()),
		Targets:  h.targets(),
		Offset:   reveal.Micros(h.IntN(3e6)),
		Duration: reveal.Micros(1 + h.IntN(3e6)),
		Stagger:  reveal.Micros(h.IntN(2) * 100_000),
		Easing:   reveal.Smooth,
		Muted:    h.IntN(5) == 0,
	}
	if h.IntN(14) == 0 {
		c.Kind, c.Arrow = reveal.KindArrow, &reveal.Arrow{Ahead: reveal.Micros(h.IntN(3) * 1e6)}
		return c
	}
	along := space.Vec3{h.NormFloat64(), h.NormFloat64(), h.NormFloat64()}
	axes := []reveal.Axes{reveal.OwnAxes, reveal.ParentAxes, reveal.AssemblyAxes, reveal.ReferenceAxes}[h.IntN(4)]
	kinds := 11
	if len(h.a.Joints) > 0 {
		kinds++
	}
	switch h.IntN(kinds) {
	case 0:
		c.Kind, c.Pull = reveal.KindPull, &reveal.Pull{Axes: axes, Along: along, Distance: h.NormFloat64() * 50}
		if h.IntN(2) == 0 {
			c.Pull.Secondary = &reveal.Leg{Along: space.Vec3{1, 0, 0}, Distance: h.NormFloat64() * 20}
		}
	case 8:
		c.Kind, c.Route = reveal.KindRoute, &reveal.Route{Axes: axes, Radius: 10 * h.Float64(), Legs: []reveal.Leg{
			{
				Along:    along,
				Distance: h.NormFloat64() * 50,
				Share:    h.Float64(),
			}, {Along: space.Vec3{0, 1, 0}, Distance: 30}}}
	case 9:
		c.Kind, c.Surface = reveal.KindSurface, &reveal.Surface{
			Style: []reveal.Style{reveal.Shaded, reveal.ShadedEdges, reveal.EdgesOnly, reveal.SeeThrough}[h.IntN(4)],
		}
	case 10:
		c.Kind, c.Targets, c.Stagger, c.Card = reveal.KindCard, nil, 0, &reveal.Card{
			Title: "Inside",
			Text:  "What turns",
			Clear: h.IntN(2) == 0,
		}
	case 1:
		c.Kind, c.Turn = reveal.KindTurn, &reveal.Turn{Axes: axes, About: along, Degrees: h.NormFloat64() * 700}
	case 2:
		c.Kind, c.Unscrew = reveal.KindUnscrew, &reveal.Unscrew{
			Axes:     axes,
			Along:    along,
			Turns:    h.Float64() * 20,
			Lead:     0.5,
			LeftHand: h.IntN(2) == 0,
		}
	case 3:
		c.Kind, c.Fade = reveal.KindFade, &reveal.Fade{To: h.Float64()}
	case 4:
		c.Kind, c.Targets, c.Stagger = reveal.KindShot, nil, 0
		c.Shot = &reveal.Shot{
			Camera: reveal.Camera{
				Target:      along,
				Orientation: space.LookAlong(along.Vec(), space.Vec{Y: 1}),
				Distance:    100 + 300*h.Float64(),
				FocalLength: 50,
			},
		}
		if h.IntN(3) == 0 {
			c.Shot.Camera.Orthographic = true
			c.Shot.Via, c.Shot.ConstantSpeed = []reveal.Camera{
				{Target: along, Orientation: space.NoRotation, Distance: 90, FocalLength: 35},
			}, h.IntN(2) == 0
		}
		if h.IntN(2) == 0 {
			c.Shot.Follow = &reveal.Follow{Nodes: h.targets(), Margin: 0.2}
		}
	case 5:
		c.Kind, c.Tint = reveal.KindTint, &reveal.Tint{
			Colour: space.Vec3{h.Float64(), h.Float64(), 0},
			Amount: h.Float64(),
		}
	case 6:
		c.Kind, c.Targets, c.Stagger = reveal.KindNote, h.targets()[:1], 0
		c.Note = &reveal.Note{Text: "Hold it while you turn the last screw", At: along}
	case 7:
		c.Kind, c.Targets, c.Stagger = reveal.KindOrbit, nil, 0
		c.Orbit = &reveal.Orbit{About: along, Degrees: h.NormFloat64() * 400}
	}
	if c.Kind == "" {
		h.drive(&c)
	}
	if c.Axes() == reveal.ReferenceAxes {
		c.Of = h.targets()[0]
	}
	if c.Kind.Moves() && h.IntN(2) == 0 {
		c.Flow = &reveal.FlowLine{Of: []reveal.FlowOf{reveal.FlowEach, reveal.FlowPart, reveal.FlowAll}[h.IntN(3)]}
	}
	if c.Kind.Moves() && len(h.a.Joints) > 0 && h.IntN(3) == 0 {
		c.Leaves = []reveal.Leaving{reveal.LeavesStopping, reveal.LeavesCoasting, reveal.LeavesRunning}[h.IntN(3)]
	}
	return c
}

// drive makes a cue drive a joint of the assembly, one that can be and sometimes one that cannot.
func (h *Hand) drive(c *reveal.Cue) {
	j := &h.a.Joints[h.IntN(len(h.a.Joints))]
	d := &reveal.Drive{Joint: j.ID, Slides: !j.Kind.Turns()}
	v := h.NormFloat64() * 400
	switch h.IntN(4) {
	case 0:
		d.To = &v
	case 1:
		d.By = &v
	case 2:
		d.By, d.Swings = &v, 1+h.IntN(3)
	case 3:
		v /= 10
		d.Speed, d.RunUp, d.RunDown, d.Ongoing = &v, reveal.Micros(h.IntN(2e6)), reveal.Micros(
			h.IntN(2e6),
		), h.IntN(2) == 0
	}
	c.Kind, c.Targets, c.Stagger, c.Drive = reveal.KindDrive, []assembly.NodeID{j.Body}, 0, d
}

// Command makes one for a document; depth says how deep it lies in others.
func (h *Hand) Command(r *reveal.Reveal, depth int) edit.Command {
	var cues []reveal.CueID
	for _, s := range r.Steps {
		for _, c := range s.Cues {
			cues = append(cues, c.ID)
		}
	}
	step := func() reveal.StepID {
		if len(r.Steps) == 0 {
			return "none"
		}
		return r.Steps[h.IntN(len(r.Steps))].ID
	}
	cue := func() reveal.CueID {
		if len(cues) == 0 {
			return "none"
		}
		return cues[h.IntN(len(cues))]
	}
	markers := []reveal.Marker{{Offset: reveal.Micros(h.IntN(2e6)), Text: "look"}}
	newStep := reveal.Step{
		ID:       reveal.StepID(h.id()),
		Title:    "new",
		Duration: reveal.Micros(100_000 + h.IntN(4e6)),
		Markers:  markers[:h.IntN(2)],
	}
	if len(cues) > 60 && h.IntN(2) == 0 { // what only grows says little after a while
		return edit.Command{Op: edit.RemoveStep, StepID: step()}
	}
	switch h.IntN(20) {
	case 0:
		title := fmt.Sprint("title ", h.IntN(1000))
		return edit.Command{Op: edit.SetTitle, Title: &title}
	case 1:
		return edit.Command{
			Op:    edit.SetFrame,
			Frame: &reveal.Frame{Width: 2 * (20 + h.IntN(900)), Height: 2 * (20 + h.IntN(900)), Rate: h.IntN(70)},
		}
	case 2:
		o := r.Opening
		o.Suppressed = h.targets()
		node := h.targets()[0]
		o.Poses = []reveal.NodePose{
			{Node: node, Pose: assembly.Pose{Move: space.Vec3{h.Float64(), 2, 3}, Turn: space.NoRotation}},
		}
		o.Tints = []reveal.NodeTint{{Node: node, Tint: reveal.Tint{Amount: h.Float64()}}}
		o.Surfaces = []reveal.NodeSurface{{Node: node, Style: reveal.EdgesOnly}}
		return edit.Command{Op: edit.SetOpening, Opening: &o}
	case 3:
		if h.IntN(4) == 0 && len(r.Steps) > 0 {
			newStep.Retrace = &reveal.Retrace{Steps: []reveal.StepID{step()}, Speed: float64(h.IntN(3))}
		}
		newStep.Cues = []reveal.Cue{h.cue()}
		return edit.Command{Op: edit.InsertStep, Step: &newStep, Index: h.IntN(len(r.Steps) + 2)}
	case 4:
		return edit.Command{Op: edit.RemoveStep, StepID: step()}
	case 17:
		return edit.Command{Op: edit.ChangeDuration, StepID: step(), By: reveal.Micros(h.IntN(4e6) - 2e6)}
	case 5:
		return edit.Command{Op: edit.MoveStep, StepID: step(), Index: h.IntN(len(r.Steps) + 1)}
	case 6:
		newStep.ID = step()
		if h.IntN(2) == 0 {
			newStep.Duration = 0 // it stays
		}
		return edit.Command{Op: edit.SetStep, Step: &newStep}
	case 7:
		return edit.Command{Op: edit.RemoveCue, CueID: cue()}
	case 8:
		c := h.cue()
		c.ID = cue()
		return edit.Command{Op: edit.SetCue, Cue: &c}
	case 9:
		return edit.Command{Op: edit.MoveCue, CueID: cue(), StepID: step(), Index: h.IntN(3)}
	case 10:
		return edit.Command{Op: edit.ShiftCues, CueIDs: []reveal.CueID{cue()}, By: reveal.Micros(h.IntN(4e6) - 2e6)}
	case 11:
		return edit.Command{
			Op:     edit.StretchCue,
			CueIDs: []reveal.CueID{cue()},
			By:     reveal.Micros(h.IntN(4e6) - 2e6),
			Edge:   []edit.Edge{edit.Start, edit.End}[h.IntN(2)],
		}
	case 18:
		reason := []string{"", "snaps in", "is meant so"}[h.IntN(3)]
		return edit.Command{
			Op: edit.Accept,
			Accepted: &reveal.Accepted{
				Check:  "held",
				Parts:  h.targets()[:1],
				Worse:  float64(h.IntN(3)),
				Reason: reason,
			},
		}
	case 19:
		c := edit.Command{Op: edit.SetLimit, Check: []string{"frame", "pace"}[h.IntN(2)]}
		if h.IntN(3) > 0 {
			limit := float64(h.IntN(5))
			c.Limit = &limit
		}
		return c
	case 15:
		return edit.Command{
			Op:       edit.SetCaptions,
			Captions: &reveal.Captions{Show: reveal.TitleOnly, Place: reveal.UpperLeft, Size: h.Float64() * 3},
		}
	case 16:
		if h.IntN(20) > 0 { // now and then everything is another document
			break
		}
		return edit.Command{Op: edit.Replace, Reveal: reveal.Clone(r)}
	case 12:
		if depth > 2 {
			break
		}
		b := edit.Command{Op: edit.Batch}
		for range h.IntN(4) {
			b.Commands = append(b.Commands, h.Command(r, depth+1))
		}
		return b
	}
	c := h.cue()
	if original, k := r.FindCue(cue()); original >= 0 && h.IntN(3) == 0 {
		of := &r.Steps[original].Cues[k]
		c = reveal.Cue{ID: c.ID, Kind: of.Kind, Twin: of.ID, Offset: c.Offset}
		if of.Kind.Targeted() {
			c.Targets = h.targets()[:1]
		}
	}
	return edit.Command{Op: edit.InsertCue, StepID: step(), Cue: &c, Index: 0}
}
