package reveal

import (
	"fmt"
	"math"

	"slowreveal/core/space"
)

func (v *validator) cue(path string, c *Cue) {
	v.want(c.ID != "" && !v.cues[c.ID] && len(c.ID) <= 64, path+".id", "%q is empty, too long or used twice", c.ID)
	v.cues[c.ID] = true
	v.want(c.Offset >= 0 && c.Offset <= MaxDuration, path+".offset", "%d µs is not between 0 and 4 hours", c.Offset)
	if c.Kind.Targeted() {
		v.want(len(c.Targets) > 0, path+".targets", "a %s needs at least one", c.Kind)
		v.targets(path+".targets", c.Targets)
	} else {
		v.want(len(c.Targets) == 0, path+".targets", "a %s has none", c.Kind)
	}
	v.want(c.Kind != KindNote || len(c.Targets) == 1, path+".targets", "a note points at one part")
	if c.Twin != "" {
		v.twin(path, c)
		return
	}
	v.want(c.Duration >= MinCueDuration, path+".duration", "%d µs is not more than 0", c.Duration)
	v.want(c.Duration <= MaxDuration, path+".duration", "%d µs is longer than 4 hours", c.Duration)
	v.want(c.Stagger >= 0 && c.Stagger <= 60*Second, path+".stagger", "%d µs is not between 0 and a minute", c.Stagger)
	p := c.Easing.Points()
	v.want(finite(p[:]...), path+".easing", "is not made of finite numbers")
	v.want(math.Abs(p[1]) <= 10 && math.Abs(p[3]) <= 10, path+".easing", "y1 and y2 must lie within ±10")
	if c.Flow != nil {
		v.flow(path+".flow", c)
	}
	if c.Axes() == ReferenceAxes {
		v.node(path+".of", c.Of)
	} else {
		v.want(c.Of == "", path+".of", "only movements in another node's axes name one")
	}
	v.settings(path, c)
}

// twin checks that a twin shares a cue that has settings, and has none itself.
func (v *validator) twin(path string, c *Cue) {
	original := v.originals[c.Twin]
	switch {
	case original == nil:
		v.add(
			path+".twin",
			"there is no cue %q with settings to share; a twin of a twin names the first of them",
			c.Twin,
		)
		return
	case original.Kind != c.Kind:
		v.add(path+".twin", "a %s cannot share a %s", c.Kind, original.Kind)
	}
	bare := Cue{ID: c.ID, Kind: c.Kind, Twin: c.Twin, Targets: c.Targets, Offset: c.Offset, Muted: c.Muted}
	full := *c
	full.Targets, bare.Targets = nil, nil // slices do not compare
	v.want(full.sameAs(&bare), path+".twin", "has settings of its own: part it first")
}

// sameAs compares cues without their targets.
func (c *Cue) sameAs(o *Cue) bool {
	return c.ID == o.ID && c.Kind == o.Kind && c.Twin == o.Twin && c.Offset == o.Offset && c.Muted == o.Muted &&
		c.Duration == o.Duration &&
		c.Stagger == o.Stagger &&
		c.Easing == o.Easing &&
		c.Flow == o.Flow &&
		c.Of == o.Of &&
		len(c.named()) == 0
}

// named lists the kinds whose settings a cue has.
func (c *Cue) named() []Kind {
	there := map[Kind]bool{
		KindPull:    c.Pull != nil,
		KindTurn:    c.Turn != nil,
		KindUnscrew: c.Unscrew != nil,
		KindRoute:   c.Route != nil,
		KindFade:    c.Fade != nil,
		KindTint:    c.Tint != nil,
		KindSurface: c.Surface != nil,
		KindNote:    c.Note != nil,
		KindCard:    c.Card != nil,
		KindShot:    c.Shot != nil,
		KindOrbit:   c.Orbit != nil,
	}
	var kinds []Kind
	for _, k := range Kinds {
		if there[k] {
			kinds = append(kinds, k)
		}
	}
	return kinds
}

func (v *validator) flow(path string, c *Cue) {
	f := c.Flow
	v.want(c.Kind.Moves(), path, "only movements have flow lines")
	v.want(f.Of == FlowEach || f.Of == FlowPart || f.Of == FlowAll, path+".of", "%q is not each, parts or all", f.Of)
	v.want(
		f.Line == "" || f.Line == Dashed || f.Line == Solid || f.Line == Dotted,
		path+".line",
		"%q is not dashed, solid or dotted",
		f.Line,
	)
	from, to := f.Span()
	v.want(from >= 0 && from < to && to <= 1, path, "its piece from %g to %g does not lie between 0 and 1", from, to)
}

// settings checks that exactly the part that the kind names is there, and what
// it says.
func (v *validator) settings(path string, c *Cue) {
	known := false
	for _, k := range Kinds {
		known = known || k == c.Kind
	}
	if !known {
		v.add(path+".kind", "%q is not known", c.Kind)
		return
	}
	named := c.named()
	for _, k := range named {
		v.want(k == c.Kind, path+"."+string(k), "does not belong to a %s", c.Kind)
	}
	if len(named) != 1 || named[0] != c.Kind {
		v.want(len(named) > 0, path+"."+string(c.Kind), "is missing")
		return
	}
	path += "." + string(c.Kind)
	switch {
	case c.Kind.Moves():
		v.movement(path, c)
	case c.Kind.Camera():
		v.shot(path, c)
	default:
		v.appearance(path, c)
	}
}

func (v *validator) movement(path string, c *Cue) {
	switch c.Kind {
	case KindPull:
		v.line(path, c.Pull.Axes, c.Pull.Along, space.Vec3{})
		v.distance(path+".distance", c.Pull.Distance)
		if c.Pull.Secondary != nil {
			v.leg(path+".secondary", c.Pull.Secondary)
		}
	case KindTurn:
		v.line(path, c.Turn.Axes, c.Turn.About, c.Turn.Pivot)
		v.want(
			math.Abs(c.Turn.Degrees) <= MaxTurns*360,
			path+".degrees",
			"%g° is more than %d turns",
			c.Turn.Degrees,
			MaxTurns,
		)
	case KindUnscrew:
		u := c.Unscrew
		v.line(path, u.Axes, u.Along, u.Pivot)
		v.want(math.Abs(u.Turns) <= MaxTurns, path+".turns", "%g is more than %d", u.Turns, MaxTurns)
		v.want(u.Lead > 0 && u.Lead <= 1000, path+".lead", "%g mm is not between 0 and 1000", u.Lead)
	case KindRoute:
		v.axes(path, c.Route.Axes)
		v.want(
			len(c.Route.Legs) > 0 && len(c.Route.Legs) <= MaxLegs,
			path+".legs",
			"there are %d; a route has 1 to %d",
			len(c.Route.Legs),
			MaxLegs,
		)
		v.want(
			c.Route.Radius >= 0 && c.Route.Radius <= MaxDistance,
			path+".radius",
			"%g mm is not between 0 and 1,000 km",
			c.Route.Radius,
		)
		for i := range c.Route.Legs {
			v.leg(fmt.Sprintf("%s.legs[%d]", path, i), &c.Route.Legs[i])
		}
	}
}

func (v *validator) shot(path string, c *Cue) {
	if o := c.Orbit; o != nil {
		v.direction(path+".about", o.About)
		v.want(math.Abs(o.Degrees) <= MaxTurns*360, path+".degrees", "%g° is more than %d turns", o.Degrees, MaxTurns)
		return
	}
	s := c.Shot
	v.text(path+".name", s.Name, 0, MaxTitle)
	v.camera(path+".camera", &s.Camera)
	v.want(len(s.Via) <= MaxViews, path+".via", "there are %d; the limit is %d", len(s.Via), MaxViews)
	for i := range s.Via {
		v.camera(fmt.Sprintf("%s.via[%d]", path, i), &s.Via[i])
	}
	v.want(!s.Straight || len(s.Via) == 0, path+".straight", "a way through several views is a curve")
	v.framings(path+".shapes", s.Shapes)
	if k := s.Follow; k != nil {
		v.targets(path+".follow.nodes", k.Nodes)
		v.want(k.Margin >= 0 && k.Margin <= 0.9, path+".follow.margin", "%g is not between 0 and 0.9", k.Margin)
	}
}

func (v *validator) framings(path string, list []Framing) {
	v.want(len(list) <= MaxFramings, path, "there are %d; the limit is %d", len(list), MaxFramings)
	seen := map[[2]int]bool{}
	for i := range list {
		at, f := fmt.Sprintf("%s[%d]", path, i), &list[i]
		v.want(
			f.Across >= 1 && f.Across <= MaxSide && f.Down >= 1 && f.Down <= MaxSide,
			at,
			"%d : %d is not a shape of numbers from 1 to %d",
			f.Across,
			f.Down,
			MaxSide,
		)
		shape := [2]int{f.Across, f.Down}
		v.want(!seen[shape], at, "there are two for %d : %d", f.Across, f.Down)
		seen[shape] = true
		v.camera(at+".camera", &f.Camera)
	}
}

func (v *validator) appearance(path string, c *Cue) {
	switch c.Kind {
	case KindFade:
		v.want(c.Fade.To >= 0 && c.Fade.To <= 1, path+".to", "%g is not between 0 and 1", c.Fade.To)
	case KindTint:
		v.tint(path, c.Tint)
	case KindSurface:
		v.style(path, c.Surface.Style)
	case KindNote:
		v.text(path+".text", c.Note.Text, 1, MaxNote)
		v.want(finite(c.Note.At[:]...) && within(c.Note.At, MaxDistance), path+".at", "is not a point within 1,000 km")
	case KindCard:
		v.text(path+".title", c.Card.Title, 1, MaxTitle)
		v.text(path+".text", c.Card.Text, 0, MaxNote)
	}
}

func (v *validator) tint(path string, t *Tint) {
	inside := min(t.Colour[0], t.Colour[1], t.Colour[2]) >= 0 && max(t.Colour[0], t.Colour[1], t.Colour[2]) <= 1
	v.want(finite(t.Colour[:]...) && inside, path+".colour", "is not made of numbers from 0 to 1")
	v.want(t.Amount >= 0 && t.Amount <= 1, path+".amount", "%g is not between 0 and 1", t.Amount)
}

func (v *validator) style(path string, s Style) {
	known := s == ShadedEdges || s == Shaded || s == EdgesOnly || s == SeeThrough
	v.want(known, path+".style", "%q is not shaded-edges, shaded, edges or see-through", s)
}

func (v *validator) axes(path string, axes Axes) {
	v.want(
		axes == OwnAxes || axes == ParentAxes || axes == AssemblyAxes || axes == ReferenceAxes,
		path+".axes",
		"%q is not own, parent, assembly or other",
		axes,
	)
}

func (v *validator) direction(path string, along space.Vec3) {
	_, ok := space.Normalize(along.Vec())
	v.want(ok && finite(along[:]...), path, "has no length, so that it is no direction")
}

func (v *validator) distance(path string, mm float64) {
	v.want(math.Abs(mm) <= MaxDistance, path, "%g mm is not within ±1,000 km", mm)
}

func (v *validator) leg(path string, l *Leg) {
	v.direction(path+".along", l.Along)
	v.distance(path+".distance", l.Distance)
	v.want(l.Share >= 0 && l.Share <= 1000, path+".share", "%g is not between 0 and 1000", l.Share)
}

func (v *validator) line(path string, axes Axes, along, pivot space.Vec3) {
	v.axes(path, axes)
	v.direction(path+".along", along)
	v.want(finite(pivot[:]...) && within(pivot, MaxDistance), path+".pivot", "is not a point within 1,000 km")
}
