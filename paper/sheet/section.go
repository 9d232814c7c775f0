package sheet

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/linedrawing"
	"slowreveal/paper"
)

// How the line of a section is drawn, mm (ISO 128-3:2020, from memory): it goes beyond the view, its ends are wide, arrows
// there show which way the section is looked at, with its letter.
const (
	sectionBeyond = 5
	sectionEnd    = 6
	sectionArrow  = 9
)

// section draws where a section is taken in the first view that looks along its plane, with lines of sight that are
// parallel. Where none does, the section's title alone tells.
func (d *drawer) section(v *view, views []*view, places []paper.Place) {
	for i, other := range views[:len(places)] {
		if other == v || other.set.Perspective || other.set.Section != nil || other.detail != nil {
			continue
		}
		normal, at := v.set.Section.Plane(d.subject.At(*v.set.At))
		eye := film.Eye(other.Camera)
		if math.Abs(r3.Dot(normal, eye.R.Column(2))) > 0.02 {
			continue
		}
		nx, ny := r3.Dot(normal, eye.R.Column(0)), r3.Dot(normal, eye.R.Column(1))
		l := math.Hypot(nx, ny)
		nx, ny, at = nx/l, ny/l, (at-r3.Dot(normal, eye.T))/l
		d.sectionLine(v.letter, other, places[i], nx, ny, at)
		return
	}
}

// sectionLine draws the points of a view with nx x + ny y = at; it is looked at against that direction.
func (d *drawer) sectionLine(letter string, v *view, place paper.Place, nx, ny, at float64) {
	least, most := math.Inf(1), math.Inf(-1) // along the line
	for _, c := range [4]linedrawing.Point{v.Min, v.Max, {X: v.Min.X, Y: v.Max.Y}, {X: v.Max.X, Y: v.Min.Y}} {
		along := c.Y*nx - c.X*ny
		least, most = min(least, along), max(most, along)
	}
	onPage := func(along float64) (x, y float64) {
		return place(linedrawing.Point{X: nx*at - ny*along, Y: ny*at + nx*along})
	}
	x0, y0 := onPage(least)
	x1, y1 := onPage(most)
	dx, dy := x1-x0, y1-y0
	l := math.Hypot(dx, dy)
	dx, dy = dx/l, dy/l
	x0, y0, x1, y1 = x0-sectionBeyond*dx, y0-sectionBeyond*dy, x1+sectionBeyond*dx, y1+sectionBeyond*dy
	pens := paper.UsualPens(d.set.LineWidth)
	chain := pens.Flow
	chain.Ink = paper.Ink
	d.page.Line(x0, y0, x1, y1, chain)
	wide := pens.Contour
	words := d.fonts.Words(paper.Title, 5, paper.Ink)
	backX, backY := nx, -ny // on the page y goes down; from the line towards who looks
	for _, end := range [2][3]float64{{x0, y0, 1}, {x1, y1, -1}} {
		x, y := end[0], end[1]
		d.page.Line(x, y, x+end[2]*sectionEnd*dx, y+end[2]*sectionEnd*dy, wide)
		tail := linedrawing.Point{X: x + sectionArrow*backX, Y: y + sectionArrow*backY}
		d.page.Arrow([]linedrawing.Point{tail, {X: x, Y: y}}, 0.7*d.set.LineWidth, paper.Ink)
		d.page.SayMiddle(words, letter, tail.X+3*backX, tail.Y+3*backY+1.8)
	}
}
