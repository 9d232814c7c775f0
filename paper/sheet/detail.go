package sheet

import (
	"fmt"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/linedrawing"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/paper"
)

// detail is a circle of a picture plane that is drawn again, larger.
type detail struct {
	centre linedrawing.Point
	radius float64
}

// detailOf returns the circle around a part or a group.
func (d *drawer) detailOf(fr *film.Frame, c reveal.Camera, id assembly.NodeID) (*detail, error) {
	a := d.subject.Model.Assembly
	node, ok := a.Index()[id]
	if !ok {
		return nil, fmt.Errorf("the part %q of the detail is not in the assembly", id)
	}
	box := a.BoundsOf()[node].Moved(&fr.World[node])
	eye := film.Eye(c)
	toCamera := eye.Inverse()
	project := func(p space.Vec) linedrawing.Point {
		q := toCamera.Apply(p)
		if c.Orthographic {
			return linedrawing.Point{X: q.X, Y: q.Y}
		}
		return linedrawing.Point{X: q.X / -q.Z, Y: q.Y / -q.Z}
	}
	out := &detail{centre: project(box.Centre())}
	for i := range 8 {
		p := project(box.Corner(i))
		out.radius = math.Max(out.radius, math.Hypot(p.X-out.centre.X, p.Y-out.centre.Y))
	}
	out.radius *= 1.15
	return out, nil
}

// clip leaves of a view what lies in the circle.
func (t *detail) clip(v *paper.View) {
	var kept []linedrawing.Line
	for _, l := range v.Lines {
		part := l
		part.Points, part.Behind = nil, [2]bool{}
		flush := func() {
			if len(part.Points) > 1 {
				kept = append(kept, part)
			}
			part.Points = nil
		}
		for i := 1; i < len(l.Points); i++ {
			from, to, inside := t.inside(l.Points[i-1], l.Points[i])
			if !inside {
				flush()
				continue
			}
			p, q := between(l.Points[i-1], l.Points[i], from), between(l.Points[i-1], l.Points[i], to)
			if part.Points == nil || from > 0 {
				flush()
				part.Points = append(part.Points, p)
			}
			part.Points = append(part.Points, q)
			if to < 1 {
				flush()
			}
		}
		flush()
	}
	v.Lines = kept
	v.Min = linedrawing.Point{X: t.centre.X - t.radius, Y: t.centre.Y - t.radius}
	v.Max = linedrawing.Point{X: t.centre.X + t.radius, Y: t.centre.Y + t.radius}
}

func between(a, b linedrawing.Point, u float64) linedrawing.Point {
	return linedrawing.Point{X: a.X + u*(b.X-a.X), Y: a.Y + u*(b.Y-a.Y)}
}

// inside returns which part of a straight line lies in the circle.
func (t *detail) inside(a, b linedrawing.Point) (from, to float64, some bool) {
	dx, dy, ox, oy := b.X-a.X, b.Y-a.Y, a.X-t.centre.X, a.Y-t.centre.Y
	p, q, r := dx*dx+dy*dy, ox*dx+oy*dy, ox*ox+oy*oy-t.radius*t.radius
	root := q*q - p*r
	if p == 0 || root <= 0 {
		return 0, 0, false
	}
	root = math.Sqrt(root)
	from, to = max(0, (-q-root)/p), min(1, (-q+root)/p)
	return from, to, from < to
}

// draw draws the circle where the detail is taken from and around the detail itself (ISO 128-3: a narrow line and a
// capital letter).
func (t *detail) draw(d *drawer, at, first paper.Place, letter string) {
	pen := paper.Pen{Width: 0.25, Ink: paper.Ink}
	words := d.fonts.Words(paper.Title, 5, paper.Ink)
	for i, place := range []paper.Place{at, first} {
		x, y := place(t.centre)
		x1, _ := place(linedrawing.Point{X: t.centre.X + t.radius, Y: t.centre.Y})
		d.page.Stroke(paper.Circle(x, y, x1-x), pen)
		if i == 1 {
			d.page.Say(words, letter, x+0.74*(x1-x)+1, y-0.74*(x1-x)-1)
		}
	}
}
