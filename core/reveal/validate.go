package reveal

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Limits on a document. They lie far beyond what the work needs and keep a
// hostile document from costing more than it should.
const (
	MaxSteps        = 1_000
	MaxCues         = 20_000
	MaxTargets      = 10_000
	MaxTitle        = 200
	MaxText         = 10_000
	MaxNote         = 300 // characters
	MaxTools        = 50
	MaxDuration     = 4 * 3600 * Second
	MinStepDuration = Second / 10
	MinCueDuration  = Micros(1)
	MaxTurns        = 10_000
	MaxDistance     = 1e9 // mm: a ship, whatever unit it was drawn in
	MinFocalLength  = 4.0 // mm
	MaxFocalLength  = 2000.0
	MaxSide         = 8192 // pixels
	MaxRate         = 240
	MaxLegs         = 50
	MaxMarkers      = 100 // in a step
	MaxViews        = 50  // on a shot's way
	MaxFramings     = 8   // of a shot for other shapes
	MaxAccepted     = 2_000
	MaxReason       = 300 // characters
	maxVariantID    = 200
)

// Problem is one thing that is wrong with a document.
type Problem struct {
	// Path says where, for example "steps[2].cues[0].duration".
	Path string `json:"path"`
	Text string `json:"text"`
}

// Problems is everything that is wrong; it serves as an error.
type Problems []Problem

// Error lists the problems, at most five.
func (p Problems) Error() string {
	var b strings.Builder
	for i, q := range p {
		if i == 5 {
			fmt.Fprintf(&b, "; and %d more", len(p)-i)
			break
		}
		if i > 0 {
			b.WriteString("; ")
		}
		b.WriteString(q.Path + ": " + q.Text)
	}
	return b.String()
}

// Validate checks a document against the assembly that it presents. It returns
// nil, or Problems with everything that is wrong.
func Validate(r *Reveal, a *assembly.Assembly) error {
	v := validator{
		nodes:     a.Index(),
		joints:    map[assembly.JointID]*assembly.Joint{},
		steps:     map[StepID]int{},
		cues:      map[CueID]bool{},
		retraced:  map[StepID]bool{},
		originals: map[CueID]*Cue{},
	}
	for i := range a.Joints {
		v.joints[a.Joints[i].ID] = &a.Joints[i]
	}
	v.reveal(r)
	if len(v.found) == 0 {
		return nil
	}
	return v.found
}

// ValidateTiming checks a document that was valid before offsets and lengths of
// cues changed. It returns nil, or Problems.
func ValidateTiming(r *Reveal) error {
	v := validator{}
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if c.Offset < 0 || c.Offset > MaxDuration || c.Duration > MaxDuration ||
				c.Duration < MinCueDuration && c.Twin == "" {
				v.add(
					fmt.Sprintf("steps[%d].cues[%d]", i, k),
					"its time from %d µs on for %d µs is not between 0 and 4 hours",
					c.Offset,
					c.Duration,
				)
			}
		}
	}
	if len(v.found) == 0 {
		return nil
	}
	return v.found
}

type validator struct {
	found    Problems
	nodes    map[assembly.NodeID]int
	joints   map[assembly.JointID]*assembly.Joint
	steps    map[StepID]int
	cues     map[CueID]bool
	retraced map[StepID]bool
	muted    bool // the cue that is looked at
	// originals are the cues that are no twins.
	originals map[CueID]*Cue
}

func (v *validator) add(path, format string, args ...any) {
	v.found = append(v.found, Problem{path, fmt.Sprintf(format, args...)})
}

// proof checks what has been decided about findings. Parts and cues of accepted ones may be gone: then these say
// nothing any more.
func (v *validator) proof(p *Proof) {
	if p == nil {
		return
	}
	v.want(len(p.Limits) <= 50, "proof.limits", "there are %d of them", len(p.Limits))
	for name, limit := range p.Limits {
		v.want(
			len(name) <= 40 && limit >= 0 && limit <= 1e6,
			"proof.limits",
			"the limit %g of %.40q is not between 0 and 1,000,000",
			limit,
			name,
		)
	}
	v.want(
		len(p.Accepted) <= MaxAccepted,
		"proof.accepted",
		"there are %d of them; the limit is %d",
		len(p.Accepted),
		MaxAccepted,
	)
	for i := range p.Accepted {
		a, path := &p.Accepted[i], fmt.Sprintf("proof.accepted[%d]", i)
		n := utf8.RuneCountInString(a.Reason)
		v.want(
			n > 0 && n <= MaxReason,
			path+".reason",
			"it has %d characters; between 1 and %d are wanted",
			n,
			MaxReason,
		)
		v.want(len(a.Check) <= 40 && len(a.Parts) <= MaxTargets && len(a.Cues) <= MaxTargets, path, "it names too much")
		v.want(a.Worse >= 0 && a.Worse <= 1e6, path+".worse", "%g is not between 0 and 1,000,000", a.Worse)
	}
}

// want adds a problem unless ok holds.
func (v *validator) want(ok bool, path, format string, args ...any) {
	if !ok {
		v.add(path, format, args...)
	}
}

func (v *validator) reveal(r *Reveal) {
	v.want(r.Format == Format, "format", "is %q, not %q", r.Format, Format)
	v.text("title", r.Title, 1, MaxTitle)
	v.frame(r.Frame)
	v.opening(&r.Opening)
	v.captions(r.CaptionStyle())
	v.proof(r.Proof)
	if r.Variants != nil {
		v.text("variants.for", string(r.Variants.For), 0, maxVariantID)
	}
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			if c := &r.Steps[i].Cues[k]; c.Twin == "" {
				v.originals[c.ID] = c
			}
		}
	}
	v.want(len(r.Steps) <= MaxSteps, "steps", "there are %d; the limit is %d", len(r.Steps), MaxSteps)
	total, cues := Micros(0), 0
	for i := range r.Steps {
		v.step(i, r)
		total += r.Steps[i].Duration
		cues += len(r.Steps[i].Cues)
	}
	v.want(total <= MaxDuration, "steps", "together they last longer than 4 hours")
	v.want(cues <= MaxCues, "steps", "they hold %d cues; the limit is %d", cues, MaxCues)
}

func (v *validator) opening(o *Opening) {
	v.camera("opening.camera", &o.Camera)
	v.targets("opening.suppressed", o.Suppressed, false)
	for i, n := range o.Opacities {
		path := fmt.Sprintf("opening.opacities[%d]", i)
		v.node(path, n.Node)
		v.want(n.Opacity >= 0 && n.Opacity <= 1, path, "opacity %g is not between 0 and 1", n.Opacity)
	}
	for i := range o.Tints {
		path := fmt.Sprintf("opening.tints[%d]", i)
		v.node(path, o.Tints[i].Node)
		o.Tints[i].Tint.validate(v, path)
	}
	for i, n := range o.Poses {
		path := fmt.Sprintf("opening.poses[%d]", i)
		v.node(path, n.Node)
		l := n.Pose.Turn.Norm()
		v.want(l > 0.99 && l < 1.01, path, "its turn is not a quaternion of length 1")
		v.want(finite(n.Pose.Move[:]...) && within(n.Pose.Move, MaxDistance), path, "is not within 1,000 km")
	}
	for i, n := range o.Surfaces {
		path := fmt.Sprintf("opening.surfaces[%d]", i)
		v.node(path, n.Node)
		v.style(path, n.Style)
	}
}

func (v *validator) captions(c Captions) {
	v.want(
		c.Show == AllWords || c.Show == TitleOnly || c.Show == NoWords,
		"captions.show",
		"%q is not all, titles or none",
		c.Show,
	)
	v.want(
		c.Place == LowerLeft || c.Place == LowerMiddle || c.Place == UpperLeft,
		"captions.place",
		"%q is not lower-left, lower-middle or upper-left",
		c.Place,
	)
	v.want(c.Size >= 0.5 && c.Size <= 2, "captions.size", "%g is not between 0.5 and 2", c.Size)
}

func (v *validator) frame(f Frame) {
	even := f.Width%2 == 0 && f.Height%2 == 0
	fits := f.Width >= 16 && f.Width <= MaxSide && f.Height >= 16 && f.Height <= MaxSide
	v.want(even && fits, "frame", "%d × %d is not an even size from 16 to %d pixels", f.Width, f.Height, MaxSide)
	v.want(
		f.Rate >= 1 && f.Rate <= MaxRate,
		"frame.rate",
		"%d frames a second is not between 1 and %d",
		f.Rate,
		MaxRate,
	)
}

func (v *validator) text(path, s string, least, most int) {
	n := utf8.RuneCountInString(s)
	v.want(utf8.ValidString(s), path, "is not valid UTF-8")
	v.want(n >= least, path, "is empty")
	v.want(n <= most, path, "has %d characters; the limit is %d", n, most)
}

func (v *validator) camera(path string, c *Camera) {
	v.want(finite(c.Target[:]...) && within(c.Target, MaxDistance), path+".target", "is not a point within 1,000 km")
	n := c.Orientation.Norm()
	v.want(n > 0.99 && n < 1.01, path+".orientation", "is not a quaternion of length 1")
	v.want(
		c.Distance > 0 && c.Distance <= MaxDistance,
		path+".distance",
		"%g mm is not between 0 and 1,000 km",
		c.Distance,
	)
	v.want(
		c.FocalLength >= MinFocalLength && c.FocalLength <= MaxFocalLength,
		path+".focalLength",
		"%g mm is not between %g and %g",
		c.FocalLength,
		MinFocalLength,
		MaxFocalLength,
	)
}

// Check returns what is wrong with a camera that stands alone, as Problems.
func (c *Camera) Check() error {
	var v validator
	v.camera("camera", c)
	if len(v.found) > 0 {
		return v.found
	}
	return nil
}

func (v *validator) step(i int, r *Reveal) {
	s, path := &r.Steps[i], fmt.Sprintf("steps[%d]", i)
	_, twice := v.steps[s.ID]
	v.want(s.ID != "" && !twice && len(s.ID) <= 64, path+".id", "%q is empty, too long or used twice", s.ID)
	v.text(path+".title", s.Title, 0, MaxTitle)
	v.text(path+".instruction", s.Instruction, 0, MaxText)
	v.want(s.Duration >= MinStepDuration, path+".duration", "%d µs is shorter than a tenth of a second", s.Duration)
	v.want(s.Duration <= MaxDuration, path+".duration", "%d µs is longer than 4 hours", s.Duration)
	v.want(len(s.Tools) <= MaxTools, path+".tools", "there are %d; the limit is %d", len(s.Tools), MaxTools)
	for k, tool := range s.Tools {
		v.text(fmt.Sprintf("%s.tools[%d]", path, k), tool, 1, MaxTitle)
	}
	if n := s.Notice; n != nil {
		known := n.Signal == Danger || n.Signal == Warning || n.Signal == Caution || n.Signal == NoticeWord
		v.want(known, path+".notice.signal", "%q is not DANGER, WARNING, CAUTION or NOTICE", n.Signal)
		v.text(path+".notice.text", n.Text, 1, MaxText)
	}
	v.want(len(s.Markers) <= MaxMarkers, path+".markers", "there are %d; the limit is %d", len(s.Markers), MaxMarkers)
	for k, m := range s.Markers {
		p := fmt.Sprintf("%s.markers[%d]", path, k)
		v.want(m.Offset >= 0 && m.Offset <= MaxDuration, p+".offset", "%d µs is not between 0 and 4 hours", m.Offset)
		v.text(p+".text", m.Text, 1, MaxTitle)
	}
	v.wordings(path+".wordings", s.Wordings)
	if s.Retrace != nil {
		v.retrace(path+".retrace", i, s.Retrace, r)
	}
	v.steps[s.ID] = i
	for k := range s.Cues {
		v.cue(fmt.Sprintf("%s.cues[%d]", path, k), &s.Cues[k])
	}
}

// wordings checks other words in variants. A variant may be gone: then they say nothing.
func (v *validator) wordings(path string, list []Wording) {
	v.want(len(list) <= assembly.MaxVariants, path, "there are %d; the limit is %d", len(list), assembly.MaxVariants)
	for k, w := range list {
		p := fmt.Sprintf("%s[%d]", path, k)
		v.text(p+".variant", string(w.Variant), 1, maxVariantID)
		v.text(p+".title", w.Title, 0, MaxTitle)
		v.text(p+".instruction", w.Instruction, 0, MaxText)
		twice := slices.ContainsFunc(list[:k], func(o Wording) bool { return o.Variant == w.Variant })
		v.want(!twice, p, "there are two wordings for %q", w.Variant)
	}
}

func (v *validator) retrace(path string, at int, t *Retrace, r *Reveal) {
	v.want(len(t.Steps) > 0, path, "names no step")
	v.want(t.Speed == 0 || t.Speed >= 0.01 && t.Speed <= 100, path+".speed", "%g is not between 0.01 and 100", t.Speed)
	for k, id := range t.Steps {
		p := fmt.Sprintf("%s.steps[%d]", path, k)
		i, known := v.steps[id]
		switch {
		case !known:
			v.add(p, "step %q does not stand before this one", id)
		case v.retraced[id]:
			v.add(p, "step %q is run backwards already", id)
		case r.Steps[i].Retrace != nil:
			v.add(p, "step %q is itself a retrace", id)
		}
		v.retraced[id] = true
	}
}

func (v *validator) node(path string, id assembly.NodeID) {
	_, known := v.nodes[id]
	v.want(known, path, "%q is not in the assembly", id)
}

// targets checks nodes; those of a cue that has lost what it acts on need not be there.
func (v *validator) targets(path string, targets []assembly.NodeID, lost bool) {
	v.want(len(targets) <= MaxTargets, path, "there are %d; the limit is %d", len(targets), MaxTargets)
	seen := make(map[assembly.NodeID]bool, len(targets))
	for _, t := range targets {
		_, known := v.nodes[t]
		v.want(known || lost, path, "%q is not in the assembly", t)
		v.want(!seen[t], path, "%q is named twice", t)
		seen[t] = true
	}
}

func finite(values ...float64) bool {
	for _, f := range values {
		if math.IsNaN(f) || math.IsInf(f, 0) {
			return false
		}
	}
	return true
}

func within(t space.Vec3, limit float64) bool {
	return math.Abs(t[0]) <= limit && math.Abs(t[1]) <= limit && math.Abs(t[2]) <= limit
}
