package reveal

import (
	"fmt"
	"math"
	"strings"
	"unicode/utf8"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Limits on a document. They lie far beyond what the work needs and keep a
// hostile document from costing more than it should.
const (
	MaxSteps    = 1_000
	MaxCues     = 20_000
	MaxTargets  = 10_000
	MaxTitle    = 200
	MaxText     = 10_000
	MaxNote     = 300 // characters
	MaxTools    = 50
	MaxLength   = 4 * 3600 * Second
	MinStep     = Second / 10
	MinCue      = Micros(1)
	MaxTurns    = 10_000
	MaxDistance = 1e6 // mm
	MinLens     = 4.0 // mm
	MaxLens     = 2000.0
	MaxSide     = 8192 // pixels
	MaxRate     = 240
)

// Problem is one thing that is wrong with a document.
type Problem struct {
	// Path says where, for example "steps[2].cues[0].length".
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
	v := validator{nodes: a.Index(), steps: map[StepID]int{}, cues: map[CueID]bool{}, retraced: map[StepID]bool{}}
	v.reveal(r)
	if len(v.found) == 0 {
		return nil
	}
	return v.found
}

type validator struct {
	found    Problems
	nodes    map[assembly.NodeID]int
	steps    map[StepID]int
	cues     map[CueID]bool
	retraced map[StepID]bool
}

func (v *validator) add(path, format string, args ...any) {
	v.found = append(v.found, Problem{path, fmt.Sprintf(format, args...)})
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
	v.camera("opening.camera", &r.Opening.Camera)
	v.targets("opening.leftOut", r.Opening.LeftOut)
	for i, o := range r.Opening.Opacities {
		path := fmt.Sprintf("opening.opacities[%d]", i)
		v.targets(path, []assembly.NodeID{o.Node})
		v.want(o.Opacity >= 0 && o.Opacity <= 1, path, "opacity %g is not between 0 and 1", o.Opacity)
	}
	v.want(len(r.Steps) <= MaxSteps, "steps", "there are %d; the limit is %d", len(r.Steps), MaxSteps)
	total, cues := Micros(0), 0
	for i := range r.Steps {
		v.step(i, r)
		total += r.Steps[i].Length
		cues += len(r.Steps[i].Cues)
	}
	v.want(total <= MaxLength, "steps", "together they last longer than 4 hours")
	v.want(cues <= MaxCues, "steps", "they hold %d cues; the limit is %d", cues, MaxCues)
}

func (v *validator) frame(f Frame) {
	even := f.Width%2 == 0 && f.Height%2 == 0
	fits := f.Width >= 16 && f.Width <= MaxSide && f.Height >= 16 && f.Height <= MaxSide
	v.want(even && fits, "frame", "%d × %d is not an even size from 16 to %d pixels", f.Width, f.Height, MaxSide)
	v.want(f.Rate >= 1 && f.Rate <= MaxRate, "frame.rate", "%d frames a second is not between 1 and %d", f.Rate, MaxRate)
}

func (v *validator) text(path, s string, least, most int) {
	n := utf8.RuneCountInString(s)
	v.want(utf8.ValidString(s), path, "is not valid UTF-8")
	v.want(n >= least, path, "is empty")
	v.want(n <= most, path, "has %d characters; the limit is %d", n, most)
}

func (v *validator) camera(path string, c *Camera) {
	v.want(finite(c.Target[:]...) && within(c.Target, MaxDistance), path+".target", "is not a point within 1 km")
	n := c.Orientation.Norm()
	v.want(n > 0.99 && n < 1.01, path+".orientation", "is not a quaternion of length 1")
	v.want(c.Distance > 0 && c.Distance <= MaxDistance, path+".distance", "%g mm is not between 0 and 1 km", c.Distance)
	v.want(c.Lens >= MinLens && c.Lens <= MaxLens, path+".lens", "%g mm is not between %g and %g", c.Lens, MinLens, MaxLens)
}

func (v *validator) step(i int, r *Reveal) {
	s, path := &r.Steps[i], fmt.Sprintf("steps[%d]", i)
	_, twice := v.steps[s.ID]
	v.want(s.ID != "" && !twice && len(s.ID) <= 64, path+".id", "%q is empty, too long or used twice", s.ID)
	v.text(path+".title", s.Title, 0, MaxTitle)
	v.text(path+".instruction", s.Instruction, 0, MaxText)
	v.want(s.Length >= MinStep, path+".length", "%d µs is shorter than a tenth of a second", s.Length)
	v.want(s.Length <= MaxLength, path+".length", "%d µs is longer than 4 hours", s.Length)
	v.want(len(s.Tools) <= MaxTools, path+".tools", "there are %d; the limit is %d", len(s.Tools), MaxTools)
	for k, tool := range s.Tools {
		v.text(fmt.Sprintf("%s.tools[%d]", path, k), tool, 1, MaxTitle)
	}
	if n := s.Notice; n != nil {
		known := n.Signal == Danger || n.Signal == Warning || n.Signal == Caution || n.Signal == NoticeWord
		v.want(known, path+".notice.signal", "%q is not DANGER, WARNING, CAUTION or NOTICE", n.Signal)
		v.text(path+".notice.text", n.Text, 1, MaxText)
	}
	if s.Retrace != nil {
		v.retrace(path+".retrace", i, s.Retrace, r)
	}
	v.steps[s.ID] = i
	for k := range s.Cues {
		v.cue(fmt.Sprintf("%s.cues[%d]", path, k), &s.Cues[k])
	}
}

func (v *validator) retrace(path string, at int, t *Retrace, r *Reveal) {
	v.want(len(t.Steps) > 0, path, "names no step")
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

func (v *validator) cue(path string, c *Cue) {
	v.want(c.ID != "" && !v.cues[c.ID] && len(c.ID) <= 64, path+".id", "%q is empty, too long or used twice", c.ID)
	v.cues[c.ID] = true
	v.want(c.Offset >= 0 && c.Offset <= MaxLength, path+".offset", "%d µs is not between 0 and 4 hours", c.Offset)
	v.want(c.Length >= MinCue, path+".length", "%d µs is not more than 0", c.Length)
	v.want(c.Length <= MaxLength, path+".length", "%d µs is longer than 4 hours", c.Length)
	v.want(c.Stagger >= 0 && c.Stagger <= 60*Second, path+".stagger", "%d µs is not between 0 and a minute", c.Stagger)
	p := c.Easing.Points()
	v.want(finite(p[:]...), path+".easing", "is not made of finite numbers")
	v.want(math.Abs(p[1]) <= 10 && math.Abs(p[3]) <= 10, path+".easing", "y1 and y2 must lie within ±10")
	v.want(!c.Flow || c.Kind.Moves(), path+".flow", "only movements have flow lines")
	if c.Kind.Camera() {
		v.want(len(c.Targets) == 0, path+".targets", "a %s has none", c.Kind)
	} else {
		v.want(len(c.Targets) > 0, path+".targets", "a %s needs at least one", c.Kind)
		v.targets(path+".targets", c.Targets)
	}
	v.settings(path, c)
}

func (v *validator) targets(path string, targets []assembly.NodeID) {
	v.want(len(targets) <= MaxTargets, path, "there are %d; the limit is %d", len(targets), MaxTargets)
	seen := make(map[assembly.NodeID]bool, len(targets))
	for _, t := range targets {
		_, known := v.nodes[t]
		v.want(known, path, "%q is not in the assembly", t)
		v.want(!seen[t], path, "%q is named twice", t)
		seen[t] = true
	}
}

// settings checks that exactly the part that the kind names is there, and what
// it says.
func (v *validator) settings(path string, c *Cue) {
	set := map[Kind]bool{KindPull: c.Pull != nil, KindTurn: c.Turn != nil, KindUnscrew: c.Unscrew != nil,
		KindFade: c.Fade != nil, KindTint: c.Tint != nil, KindNote: c.Note != nil, KindShot: c.Shot != nil, KindOrbit: c.Orbit != nil}
	if _, known := set[c.Kind]; !known {
		v.add(path+".kind", "%q is not known", c.Kind)
		return
	}
	for kind, there := range set {
		if kind == c.Kind && !there {
			v.add(path+"."+string(kind), "is missing")
			return
		}
		v.want(kind == c.Kind || !there, path+"."+string(kind), "does not belong to a %s", c.Kind)
	}
	switch c.Kind {
	case KindPull:
		v.line(path+".pull", c.Pull.Axes, c.Pull.Along, space.Triple{})
		v.want(math.Abs(c.Pull.Distance) <= MaxDistance, path+".pull.distance", "%g mm is not within ±1 km", c.Pull.Distance)
	case KindTurn:
		v.line(path+".turn", c.Turn.Axes, c.Turn.About, c.Turn.Pivot)
		v.want(math.Abs(c.Turn.Degrees) <= MaxTurns*360, path+".turn.degrees", "%g° is more than %d turns", c.Turn.Degrees, MaxTurns)
	case KindUnscrew:
		u := c.Unscrew
		v.line(path+".unscrew", u.Axes, u.Along, u.Pivot)
		v.want(math.Abs(u.Turns) <= MaxTurns, path+".unscrew.turns", "%g is more than %d", u.Turns, MaxTurns)
		v.want(u.Lead > 0 && u.Lead <= 1000, path+".unscrew.lead", "%g mm is not between 0 and 1000", u.Lead)
	case KindFade:
		v.want(c.Fade.To >= 0 && c.Fade.To <= 1, path+".fade.to", "%g is not between 0 and 1", c.Fade.To)
	case KindShot:
		v.text(path+".shot.name", c.Shot.Name, 0, MaxTitle)
		v.camera(path+".shot.camera", &c.Shot.Camera)
		if k := c.Shot.Keep; k != nil {
			v.targets(path+".shot.keep.nodes", k.Nodes)
			v.want(k.Margin >= 0 && k.Margin <= 0.9, path+".shot.keep.margin", "%g is not between 0 and 0.9", k.Margin)
		}
	case KindTint:
		t := c.Tint
		v.want(finite(t.Colour[:]...) && min(t.Colour[0], t.Colour[1], t.Colour[2]) >= 0 && max(t.Colour[0], t.Colour[1], t.Colour[2]) <= 1, path+".tint.colour", "is not made of numbers from 0 to 1")
		v.want(t.Amount >= 0 && t.Amount <= 1, path+".tint.amount", "%g is not between 0 and 1", t.Amount)
	case KindNote:
		v.want(len(c.Targets) == 1, path+".targets", "a note points at one part")
		v.text(path+".note.text", c.Note.Text, 1, MaxNote)
		v.want(finite(c.Note.At[:]...) && within(c.Note.At, MaxDistance), path+".note.at", "is not a point within 1 km")
	case KindOrbit:
		_, ok := space.Unit(c.Orbit.About.Vec())
		v.want(ok && finite(c.Orbit.About[:]...), path+".orbit.about", "has no length")
		v.want(math.Abs(c.Orbit.Degrees) <= MaxTurns*360, path+".orbit.degrees", "%g° is more than %d turns", c.Orbit.Degrees, MaxTurns)
	}
}

func (v *validator) line(path string, axes Axes, along, pivot space.Triple) {
	v.want(axes == Own || axes == Parent || axes == Whole, path+".axes", "%q is not own, parent or assembly", axes)
	_, ok := space.Unit(along.Vec())
	v.want(ok && finite(along[:]...), path, "its direction has no length")
	v.want(finite(pivot[:]...) && within(pivot, MaxDistance), path+".pivot", "is not a point within 1 km")
}

func finite(values ...float64) bool {
	for _, f := range values {
		if math.IsNaN(f) || math.IsInf(f, 0) {
			return false
		}
	}
	return true
}

func within(t space.Triple, limit float64) bool {
	return math.Abs(t[0]) <= limit && math.Abs(t[1]) <= limit && math.Abs(t[2]) <= limit
}
