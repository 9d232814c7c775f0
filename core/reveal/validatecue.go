package reveal

import (
	"math"

	"slowreveal/core/space"
)

func (v *validator) cue(path string, c *Cue) {
	v.want(c.ID != "" && !v.cues[c.ID] && len(c.ID) <= 64, path+".id", "%q is empty, too long or used twice", c.ID)
	v.cues[c.ID] = true
	v.want(c.Offset >= 0 && c.Offset <= MaxDuration, path+".offset", "%d µs is not between 0 and 4 hours", c.Offset)
	v.want(c.Lost == "" || c.Lost == LostOn || c.Lost == LostOff, path+".lost", "%q is not on or off", c.Lost)
	v.want(
		c.Lost == "" || c.Muted && c.Kind.Targeted(), path+".lost",
		"nothing that it acts on is in the product: give it other parts before it is switched on",
	)
	if c.Kind.Targeted() {
		v.want(len(c.Targets) > 0, path+".targets", "a %s needs at least one", c.Kind)
		v.targets(path+".targets", c.Targets, c.Lost != "")
	} else {
		v.want(len(c.Targets) == 0, path+".targets", "a %s has none", c.Kind)
	}
	v.want(!c.Kind.Single() || len(c.Targets) == 1, path+".targets", "a %s points at one part", c.Kind)
	if c.Twin != "" {
		v.want(c.Kind != KindDrive, path+".twin", "a drive has no twins: its joint is driven once")
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
	v.want(c.Leaves == "" || c.Kind.Moves(), path+".leaves", "only what is moved leaves what drives it")
	v.want(
		c.Leaves == "" || c.Leaves == LeavesStopping || c.Leaves == LeavesCoasting || c.Leaves == LeavesRunning,
		path+".leaves", "%q is not stops, coasts or runs", c.Leaves,
	)
	if c.Axes() == ReferenceAxes && c.Lost == "" {
		v.node(path+".of", c.Of)
	} else if c.Axes() != ReferenceAxes {
		v.want(c.Of == "", path+".of", "only movements in another node's axes name one")
	}
	v.muted = c.Muted
	v.settings(path, c)
	v.driven(path, c)
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
	bare := Cue{
		ID:      c.ID,
		Kind:    c.Kind,
		Twin:    c.Twin,
		Targets: c.Targets,
		Offset:  c.Offset,
		Muted:   c.Muted,
		Lost:    c.Lost,
	}
	full := *c
	full.Targets, bare.Targets = nil, nil // slices do not compare
	v.want(full.sameAs(&bare), path+".twin", "has settings of its own: part it first")
}

// sameAs compares cues without their targets.
func (c *Cue) sameAs(o *Cue) bool {
	return c.ID == o.ID && c.Kind == o.Kind && c.Twin == o.Twin && c.Offset == o.Offset && c.Muted == o.Muted &&
		c.Lost == o.Lost &&
		c.Duration == o.Duration &&
		c.Stagger == o.Stagger &&
		c.Easing == o.Easing &&
		c.Flow == o.Flow &&
		c.Of == o.Of &&
		c.Leaves == o.Leaves &&
		len(c.named()) == 0
}

// named lists the kinds whose settings a cue has.
func (c *Cue) named() (list []Kind) {
	for i := range kinds {
		if kinds[i].get(c) != nil {
			list = append(list, kinds[i].name)
		}
	}
	return list
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
	if c.Kind.entry() == nil {
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
	c.Settings().validate(v, path+"."+string(c.Kind))
}

func (v *validator) axes(path string, axes Axes) {
	v.want(
		axes == OwnAxes || axes == ParentAxes || axes == AssemblyAxes || axes == ReferenceAxes,
		path+".axes",
		"%q is not own, parent, assembly or reference",
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
