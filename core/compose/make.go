package compose

import (
	"errors"
	"math"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// place is where new cues go: a step, the time in it, and their place in its list.
type place struct {
	step  reveal.StepID
	at    reveal.Micros
	index int
}

// placeHere is the place at the time of the film. Where there is no step yet one is made.
func (c *composer) placeHere() (place, error) {
	if len(c.r.Steps) == 0 {
		step := reveal.Step{ID: reveal.StepID(c.w.Fresh + "-step"), Title: "First step", Duration: firstStep}
		c.add(edit.Command{Op: edit.InsertStep, Step: &step})
		return place{step: step.ID, at: c.w.Time}, nil
	}
	i, at, err := c.here()
	if err != nil {
		return place{}, err
	}
	return place{c.r.Steps[i].ID, at, len(c.r.Steps[i].Cues)}, nil
}

// new makes cues at the time of the film, or so much later as their offsets say.
func (c *composer) new(cues ...reveal.Cue) error {
	p, err := c.placeHere()
	if err != nil {
		return err
	}
	c.insert(p.step, p.index, cues, p.at)
	return nil
}

// targets are the nodes that are picked; without any, what the selected cues act on, and the time is that of their end.
func (c *composer) targets() ([]assembly.NodeID, error) {
	if len(c.w.Nodes) > 0 {
		return c.w.Nodes, nil
	}
	var nodes []assembly.NodeID
	end := reveal.Micros(0)
	if c.Film != nil {
		for i := range c.Film.Schedule.Bars {
			b := &c.Film.Schedule.Bars[i]
			if b.Retraced || !slices.Contains(c.w.CueIDs, b.Cue) {
				continue
			}
			end = max(end, b.Start+b.Duration)
			for _, t := range b.Targets {
				if !slices.Contains(nodes, t) {
					nodes = append(nodes, t)
				}
			}
		}
	}
	if len(nodes) == 0 {
		return nil, errors.New("Nothing is picked. Pick a part on the stage or in the tree first.")
	}
	c.w.Nodes, c.w.Time = nodes, end
	return nodes, nil
}

// movement is what a movement is made of: what goes, where, and how far.
type movement struct {
	nodes    []assembly.NodeID
	ways     Ways
	way      Direction
	distance float64
}

func (c *composer) movement() (m movement, err error) {
	if m.nodes, err = c.targets(); err != nil {
		return m, err
	}
	if m.ways, err = c.Ways(m.nodes); err != nil {
		return m, err
	}
	if c.w.Way != nil {
		m.way = *c.w.Way
	} else {
		k := slices.IndexFunc(m.ways.Ways, func(w Offered) bool { return w.Usual })
		if k < 0 {
			return m, errors.New("the picked parts are gone")
		}
		m.way = m.ways.Ways[k].Direction
	}
	if m.distance = c.w.Distance; m.distance == 0 {
		m.distance = m.ways.Distance
	}
	return m, nil
}

// cue is a movement's, without its settings.
func (m *movement) cue(kind reveal.Kind) reveal.Cue {
	return reveal.Cue{Kind: kind, Targets: m.nodes, Duration: moveTime, Easing: reveal.Smooth, Of: m.way.Of}
}

// pivot is a point of the axis of a turn: the way's, or the middle of the part in its own axes.
func (m *movement) pivot() space.Vec3 {
	switch {
	case m.way.Pivot != nil:
		return *m.way.Pivot
	case m.way.Axes == reveal.OwnAxes:
		return m.ways.Pivot
	}
	return space.Vec3{}
}

// moving makes cues that move parts; where the author looks from somewhere, with a shot that follows them.
func (c *composer) moving(m *movement, cues ...reveal.Cue) error {
	c.done.Moves = true
	if c.w.Camera == nil {
		return c.new(cues...)
	}
	fitted, err := c.Fit(m.nodes, *c.w.Camera, c.r.Frame.Aspect(), followMargin)
	if err != nil {
		return err
	}
	shot := reveal.Cue{Kind: reveal.KindShot, Duration: changeTime, Easing: reveal.Smooth, Shot: &reveal.Shot{
		Name: c.w.Text, Camera: fitted, Follow: &reveal.Follow{Nodes: m.nodes, Margin: followMargin},
	}}
	return c.new(append([]reveal.Cue{shot}, cues...)...)
}

func (c *composer) pull() error {
	m, err := c.movement()
	if err != nil {
		return err
	}
	cue := m.cue(reveal.KindPull)
	cue.Pull = &reveal.Pull{Axes: m.way.Axes, Along: m.way.Along, Distance: m.distance, Secondary: c.w.Secondary}
	return c.moving(&m, cue)
}

func (c *composer) turn() error {
	m, err := c.movement()
	if err != nil {
		return err
	}
	cue := m.cue(reveal.KindTurn)
	cue.Turn = &reveal.Turn{Axes: m.way.Axes, About: m.way.Along, Pivot: m.pivot(), Degrees: quarterTurn}
	return c.moving(&m, cue)
}

// unscrewing is an unscrew by the thread that the part has, or by a guess along the way.
func (m *movement) unscrewing() reveal.Cue {
	cue := m.cue(reveal.KindUnscrew)
	if t := m.ways.Thread; t != nil {
		cue.Of = ""
		cue.Unscrew = &reveal.Unscrew{
			Axes:  reveal.OwnAxes,
			Along: t.Along,
			Pivot: t.Pivot,
			Turns: t.Turns,
			Lead:  t.Lead,
		}
		return cue
	}
	cue.Unscrew = &reveal.Unscrew{
		Axes: m.way.Axes, Along: m.way.Along, Pivot: m.pivot(), Turns: UnknownTurns, Lead: UnknownLead,
	}
	return cue
}

func (c *composer) unscrew() error {
	m, err := c.movement()
	if err != nil {
		return err
	}
	return c.moving(&m, m.unscrewing())
}

// unscrewOut unscrews several one after the other, and takes each straight on where its thread ends.
func (c *composer) unscrewOut() error {
	m, err := c.movement()
	if err != nil {
		return err
	}
	cue := m.unscrewing()
	if len(m.nodes) > 1 {
		cue.Stagger = screwsApart
	}
	return c.moving(&m, cue, out(&cue, m.distance))
}

// out takes unscrewed parts straight on from where their threads end, each in its turn.
func out(unscrew *reveal.Cue, distance float64) reveal.Cue {
	return reveal.Cue{
		Kind: reveal.KindPull, Targets: unscrew.Targets, Of: unscrew.Of, Stagger: unscrew.Stagger,
		Offset: unscrew.Offset + unscrew.Duration, Duration: outTime, Easing: reveal.Out,
		Pull: &reveal.Pull{
			Axes: unscrew.Unscrew.Axes, Along: unscrew.Unscrew.Along, Distance: max(distance, leastPull),
		},
	}
}

// route goes out, then aside.
func (c *composer) route() error {
	m, err := c.movement()
	if err != nil {
		return err
	}
	aside := reveal.Leg{Along: aside(m.way.Along), Distance: m.distance}
	if c.w.Secondary != nil {
		aside = *c.w.Secondary
	}
	cue := m.cue(reveal.KindRoute)
	cue.Duration = 2 * moveTime
	cue.Route = &reveal.Route{
		Axes:   m.way.Axes,
		Legs:   []reveal.Leg{{Along: m.way.Along, Distance: m.distance}, aside},
		Radius: corner(m.distance),
	}
	return c.moving(&m, cue)
}

func corner(leg float64) float64 { return math.Round(math.Abs(leg) / cornerShare) }

// aside is an axis that a direction does not run along: up, or forwards where it runs up or down.
func aside(along space.Vec3) space.Vec3 {
	if v, ok := space.Normalize(along.Vec()); ok && math.Abs(v.Y) > 0.9 {
		return space.Vec3{0, 0, 1}
	}
	return space.Vec3{0, 1, 0}
}

func (c *composer) fade() error {
	cue := reveal.Cue{
		Kind:     reveal.KindFade,
		Duration: changeTime,
		Easing:   reveal.Smooth,
		Fade:     &reveal.Fade{To: seenThrough},
	}
	switch c.w.Do {
	case AddHide:
		cue.Duration, cue.Fade.To = atOnce, 0
	case AddShow:
		cue.Fade.To = 1
	}
	return c.onTargets(cue)
}

// onTargets makes a cue that acts on what is picked.
func (c *composer) onTargets(cue reveal.Cue) (err error) {
	if cue.Targets, err = c.targets(); err != nil {
		return err
	}
	return c.new(cue)
}

func (c *composer) tint() error {
	return c.onTargets(reveal.Cue{
		Kind: reveal.KindTint, Duration: changeTime, Easing: reveal.Smooth,
		Tint: &reveal.Tint{Colour: pointedOut, Amount: tintAmount},
	})
}

func (c *composer) surface() error {
	return c.onTargets(reveal.Cue{
		Kind: reveal.KindSurface, Duration: changeTime, Easing: reveal.Smooth,
		Surface: &reveal.Surface{Style: reveal.SeeThrough},
	})
}

func (c *composer) note() error {
	nodes, err := c.targets()
	if err != nil {
		return err
	}
	i, ok := c.Index[nodes[0]]
	if !ok {
		return errors.New("the picked part is gone")
	}
	at := space.Vec3Of(c.Boxes[i].Centre())
	if c.w.Point != nil {
		at = *c.w.Point
	}
	return c.new(reveal.Cue{
		Kind: reveal.KindNote, Targets: targetsOf(reveal.KindNote, nodes), Duration: noteTime, Easing: reveal.Linear,
		Note: &reveal.Note{Text: c.w.Text, At: at},
	})
}

// card makes a card, and says whether something happens beside it.
func (c *composer) card() error {
	p, err := c.placeHere()
	if err != nil {
		return err
	}
	if i := c.r.FindStep(p.step); i >= 0 {
		for k := range c.r.Steps[i].Cues {
			at := c.r.Steps[i].Cues[k].Offset
			c.done.Beside = c.done.Beside || at >= p.at && at < p.at+cardTime
		}
	}
	card := reveal.Cue{
		Kind:     reveal.KindCard,
		Duration: cardTime,
		Easing:   reveal.Linear,
		Card:     &reveal.Card{Title: c.w.Text},
	}
	c.insert(p.step, p.index, []reveal.Cue{card}, p.at)
	return nil
}

// shot keeps a camera, under the next number.
func (c *composer) shot() error {
	if c.w.Camera == nil {
		return errors.New("a shot needs a camera")
	}
	n := 1
	for i := range c.r.Steps {
		for k := range c.r.Steps[i].Cues {
			if c.r.Steps[i].Cues[k].Kind == reveal.KindShot {
				n++
			}
		}
	}
	return c.new(reveal.Cue{
		Kind: reveal.KindShot, Duration: moveTime, Easing: reveal.Smooth,
		Shot: &reveal.Shot{Name: "Shot " + reveal.Number(float64(n)), Camera: *c.w.Camera},
	})
}

func (c *composer) orbit() error {
	return c.new(reveal.Cue{
		Kind: reveal.KindOrbit, Duration: orbitTime, Easing: reveal.Linear,
		Orbit: &reveal.Orbit{About: space.Vec3{0, 1, 0}, Degrees: 360},
	})
}
