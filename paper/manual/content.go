package manual

import (
	"context"
	"errors"
	"fmt"
	"image"
	"math"
	"runtime"
	"slices"

	"github.com/sourcegraph/conc/pool"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/paper"
	"slowreveal/paper/sheet"
)

// Content is what a manual tells, before it is put on pages.
type Content struct {
	Settings Settings
	Assembly string
	Cover    *Picture
	Steps    []Step
	Items    []item.Item
	Tools    []string
}

// Step is a step as it is told.
type Step struct {
	reveal.Step
	Number   int
	Pictures []Picture
	// Items are those whose parts the step moves or shows, as indices of Content.Items.
	Items []int
	// Count is how many parts of each item.
	Count []int
}

// Picture is a picture of a moment.
type Picture struct {
	At     reveal.Micros
	Camera reveal.Camera
	View   *paper.View
	// Image is shown as it is, in place of a view.
	Image image.Image
	// Min and Max are what is shown of the picture plane: all that is seen in the pictures of the step.
	Min, Max linedrawing.Point
	// Marked are the parts that move, Arrows where they go to, in the world.
	Marked []int
	Arrows [][]space.Vec
	// Alternative says in words what is seen.
	Alternative string
	// Refer are the items that are referred to, as indices.
	Refer []int
}

// seen reports whether there is something to see in it.
func (p *Picture) seen() bool { return p.View != nil || p.Image != nil }

// Aspect is the shape of the pictures of steps, width over height.
const Aspect = 1.45

// Collect reads the reveal: settings must have been filled.
func Collect(ctx context.Context, s *paper.Subject, set Settings) (*Content, error) {
	subject := paper.NewSubject(s.Model, s.Film.Shaped(Aspect, false))
	r := subject.Film.Reveal
	c := &Content{Settings: set, Assembly: s.Model.Assembly.Name}
	if c.Settings.Title == "" {
		c.Settings.Title = r.Title
	}
	if c.Settings.Subtitle == "" && c.Settings.Title != c.Assembly {
		c.Settings.Subtitle = c.Assembly
	}
	facts := survey.Shapes(s.Model.Assembly, s.Model.Shapes)
	c.Items = item.List(s.Model.Assembly, facts, sheet.Shown(s.Film), set.List)
	order, err := c.order(subject.Film)
	if err != nil {
		return nil, err
	}
	for _, i := range order {
		c.Steps = append(c.Steps, c.step(subject, i))
	}
	c.tools()
	return c, c.draw(ctx, subject)
}

// order returns the steps that are told, as indices of the schedule.
func (c *Content) order(f *film.Film) (list []int, err error) {
	if len(c.Settings.Steps) == 0 {
		for i := range f.Schedule.Steps {
			if !f.Schedule.Steps[i].Muted {
				list = append(list, i)
			}
		}
	}
	for _, id := range c.Settings.Steps {
		i := slices.IndexFunc(f.Schedule.Steps, func(s film.Span) bool { return s.Step == id && !s.Muted })
		if i < 0 {
			return nil, fmt.Errorf("the step %q of the manual is not in the reveal, or muted", id)
		}
		list = append(list, i)
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("the reveal has no steps: a manual tells them, so write one first")
	}
	return list, nil
}

// tools are those of all steps, each once.
func (c *Content) tools() {
	for i := range c.Steps {
		for _, tool := range c.Steps[i].Tools {
			if !slices.Contains(c.Tools, tool) {
				c.Tools = append(c.Tools, tool)
			}
		}
	}
}

// step reads one step: what moves in it, and which moments show it.
func (c *Content) step(s *paper.Subject, i int) Step {
	f := s.Film
	span := f.Schedule.Steps[i]
	out := Step{Step: f.Reveal.Steps[f.Reveal.FindStep(span.Step)], Number: len(c.Steps) + 1}
	m := watch(s, span)
	moments := c.Settings.Moments[span.Step]
	byHand := len(moments) > 0
	if !byHand {
		moments = m.moments()
	}
	own := c.Settings.Pictures[span.Step]
	if len(own) > 0 {
		moments = nil
	}
	for _, id := range own {
		out.Pictures = append(out.Pictures, Picture{Image: c.Settings.Images[id]})
	}
	camera := s.At(m.best).Camera // all pictures of a step are from where its shot has come to
	for k, t := range moments {
		if byHand {
			camera = s.At(t).Camera
		}
		p := Picture{At: t, Camera: camera, Marked: m.moved}
		if k == 0 && m.some() && !byHand {
			p.Arrows = m.arrows(t)
		}
		out.Pictures = append(out.Pictures, p)
	}
	in := map[int]bool{}
	for _, n := range m.moved {
		in[n] = true
	}
	for k := range c.Items {
		count := 0
		for _, n := range c.Items[k].Nodes {
			if in[n] {
				count++
			}
		}
		if count > 0 {
			out.Items, out.Count = append(out.Items, k), append(out.Count, count)
		}
	}
	for k := range out.Pictures {
		p := &out.Pictures[k]
		if k == 0 && p.Image == nil {
			p.Refer = out.Items
		}
		p.Alternative = c.alternative(&out, k)
	}
	return out
}

// alternative says what a picture shows, for those who do not see it.
func (c *Content) alternative(s *Step, k int) string {
	var names []string
	for i, n := range s.Items {
		name := c.Items[n].Name
		if s.Count[i] > 1 {
			name = fmt.Sprintf("%d × %s", s.Count[i], name)
		}
		names = append(names, name)
	}
	const most = 6
	if len(names) > most {
		names = append(names[:most], fmt.Sprintf("%d more", len(names)-most))
	}
	text := fmt.Sprintf("Step %d, %s: picture %d of %d.", s.Number, s.Title, k+1, len(s.Pictures))
	if len(names) > 0 && s.Pictures[k].Image == nil {
		moving := "Moving: "
		if len(s.Pictures[k].Arrows) > 0 {
			moving = "Arrows show where these go: "
		}
		text += " " + moving + join(names) + "."
	}
	return text
}

func join(list []string) (text string) {
	for i, s := range list {
		if i > 0 {
			text += ", "
		}
		text += s
	}
	return text
}

// motion is what happens to parts in a step.
type motion struct {
	subject *paper.Subject
	span    film.Span
	times   []reveal.Micros
	frames  []*film.Frame
	moved   []int // parts whose pose changes; empty where more than half of all do
	tops    []int // the nodes that they move with
	early   reveal.Micros
	best    reveal.Micros
}

// samples is at how many moments of a step it is looked at where parts are.
const samples = 24

// still is how far a part has to go for it to move, mm.
const still = 0.05

// watch looks at a step from its beginning to its end.
func watch(s *paper.Subject, span film.Span) *motion {
	m := &motion{subject: s, span: span, early: span.Start, best: span.Start + span.Duration}
	for k := range samples + 1 {
		t := span.Start + span.Duration*reveal.Micros(k)/samples
		m.times, m.frames = append(m.times, t), append(m.frames, s.At(t))
	}
	a := s.Model.Assembly
	first := m.frames[0]
	moves := make([]bool, len(a.Nodes))
	visible := 0
	for i := range a.Nodes {
		for _, fr := range m.frames[1:] {
			moves[i] = moves[i] || far(a.Nodes[i].Shape, s, &first.World[i], &fr.World[i]) > still
		}
		if !a.Nodes[i].IsPart() {
			continue
		}
		shown := first.Opacity[i] > 0.5
		visible += btoi(shown)
		if moves[i] && shown {
			m.moved = append(m.moved, i)
		}
	}
	if 2*len(m.moved) > visible { // everything moves: that is no news of a part
		m.moved = nil
		return m
	}
	for _, i := range m.moved {
		top := i
		for p := a.Nodes[top].Parent; p >= 0 && moves[p]; p = a.Nodes[top].Parent {
			top = p
		}
		if !slices.Contains(m.tops, top) {
			m.tops = append(m.tops, top)
		}
	}
	m.choose()
	return m
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// far is how far a node goes between two poses: its origin, or the corners of its box.
func far(shape int, s *paper.Subject, a, b *space.Rigid) (most float64) {
	most = r3.Norm(r3.Sub(a.T, b.T))
	if shape < 0 {
		return most
	}
	box := s.Model.Assembly.Shapes[shape].Bounds()
	for k := range 8 {
		most = math.Max(most, r3.Norm(r3.Sub(a.Apply(box.Corner(k)), b.Apply(box.Corner(k)))))
	}
	return most
}

func (m *motion) some() bool { return len(m.moved) > 0 }

// choose finds the moments: the last one before anything moves, and the one at which what has moved is farthest away
// and is still seen.
func (m *motion) choose() {
	if !m.some() {
		return
	}
	first := m.frames[0]
	a := m.subject.Model.Assembly
	worth, began := 0.0, false
	for k, fr := range m.frames {
		sum := 0.0
		for _, i := range m.moved {
			d := far(a.Nodes[i].Shape, m.subject, &first.World[i], &fr.World[i])
			if d > still && !began {
				began = true
				m.early = m.times[max(0, k-1)]
			}
			sum += math.Min(d, 200) * math.Min(1, fr.Opacity[i]*fr.Opacity[i])
		}
		if sum > worth*1.001 {
			worth, m.best = sum, m.times[k]
		}
	}
}

// moments are those of the pictures of a step.
func (m *motion) moments() []reveal.Micros {
	if !m.some() {
		return []reveal.Micros{m.span.Start + m.span.Duration}
	}
	return []reveal.Micros{m.early, m.best}
}

// mostArrows is how many arrows a picture has at most.
const mostArrows = 12

// arrows are the ways of what moves, from where it is at a time to where it is at the best moment, each as points in the
// world. What only turns about itself has none.
func (m *motion) arrows(from reveal.Micros) (list [][]space.Vec) {
	a := m.subject.Model.Assembly
	boxes := a.BoundsOf()
	for _, top := range m.tops {
		middle := boxes[top].Centre()
		var way []space.Vec
		for k, fr := range m.frames {
			if m.times[k] >= from && m.times[k] <= m.best {
				way = append(way, fr.World[top].Apply(middle))
			}
		}
		if len(way) > 1 && r3.Norm(r3.Sub(way[len(way)-1], way[0])) > 1 && len(list) < mostArrows {
			list = append(list, way)
		}
	}
	return list
}

// draw draws the lines of all pictures.
func (c *Content) draw(ctx context.Context, s *paper.Subject) error {
	whole := paper.ViewSettings{Filling: c.Settings.Filling, FlowLines: true, Aspect: Aspect}
	if whole.Filling == paper.Tinted {
		whole.Filling = paper.Shaded // the cover shows the product as it is
	}
	work := pool.New().WithContext(ctx).WithMaxGoroutines(runtime.GOMAXPROCS(0))
	if _, err := s.Scene(); err != nil {
		return err
	}
	c.Cover = &Picture{Camera: s.At(0).Camera, Alternative: c.Assembly + ", as a whole."}
	work.Go(func(ctx context.Context) (err error) {
		if c.Cover.View, err = s.View(ctx, s.At(0), c.Cover.Camera, whole); errors.Is(err, paper.ErrNothing) {
			return nil
		}
		return err
	})
	for i := range c.Steps {
		for k := range c.Steps[i].Pictures {
			p := &c.Steps[i].Pictures[k]
			if p.Image != nil {
				continue
			}
			set := paper.ViewSettings{
				Filling:   c.Settings.Filling,
				FlowLines: len(p.Arrows) == 0,
				Marked:    p.Marked,
				Aspect:    Aspect,
			}
			work.Go(func(ctx context.Context) error {
				v, err := s.View(ctx, s.At(p.At), p.Camera, set)
				if errors.Is(err, paper.ErrNothing) { // a step may show words alone
					return nil
				}
				if err != nil {
					return fmt.Errorf("step %d, %s, at %.2f s: %w", i+1, c.Steps[i].Title, float64(p.At)/1e6, err)
				}
				p.View = v
				return nil
			})
		}
	}
	if err := work.Wait(); err != nil {
		return err
	}
	for i := range c.Steps {
		frame(c.Steps[i].Pictures)
	}
	return nil
}

// frame lets pictures from one place show the same: what is seen in any of them.
func frame(pictures []Picture) {
	for i := range pictures {
		p := &pictures[i]
		p.Min, p.Max = linedrawing.Point{
			X: math.Inf(1),
			Y: math.Inf(1),
		}, linedrawing.Point{
			X: math.Inf(-1),
			Y: math.Inf(-1),
		}
		for k := range pictures {
			if v := pictures[k].View; v != nil && pictures[k].Camera == p.Camera {
				p.Min = linedrawing.Point{X: min(p.Min.X, v.Min.X), Y: min(p.Min.Y, v.Min.Y)}
				p.Max = linedrawing.Point{X: max(p.Max.X, v.Max.X), Y: max(p.Max.Y, v.Max.Y)}
			}
		}
	}
}
