package paper

import (
	"math"

	"slowreveal/core/linedrawing"
)

// Pens are how the lines of a drawing are drawn: wide and narrow lines are 2 : 1 (ISO 128-2:2020), from the series of
// widths 0.13, 0.18, 0.25, 0.35, 0.5, 0.7 (from memory).
type Pens struct {
	Contour, Feature, Hidden, Flow Pen
	// Clear is for the lines of parts that are seen through.
	Clear Pen
	// Gap is how much of a line is left out where it goes on behind something else, mm.
	Gap float64
}

// UsualPens draws contours wide and inner edges narrow. wide is the width of the wide lines, mm.
func UsualPens(wide float64) Pens {
	narrow := wide / 2
	return Pens{
		Contour: Pen{Width: wide, Ink: Ink},
		Feature: Pen{Width: narrow, Ink: Ink},
		Clear:   Pen{Width: narrow, Ink: Grey},
		Hidden:  Pen{Width: narrow, Ink: Grey, Dashes: []float64{6 * narrow, 3 * narrow}},
		// long dash, dot (ISO 128-2, line 04.1: 24 d, 3 d, 0.5 d, 3 d), shorter for short ways
		Flow: Pen{Width: narrow, Ink: Grey, Dashes: []float64{14 * narrow, 3 * narrow, 0.5 * narrow, 3 * narrow}},
		Gap:  1.2 * wide,
	}
}

// fitWithin is how far a curve passes from the points of its line at most, mm.
const fitWithin = 0.02

// shortest is the length of a line below which it is a dot, and left out, mm.
const shortest = 0.12

// Place takes a point of the picture plane to the page, mm.
type Place func(linedrawing.Point) (x, y float64)

// Drawing draws lines where place says.
func (p *Page) Drawing(lines []linedrawing.Line, place Place, pens Pens) {
	var outlines [5]Outline // hidden, clear, flow, feature, contour: those that count most last
	for i := range lines {
		l := &lines[i]
		if l.Hidden && l.Kind == linedrawing.Hatch {
			continue
		}
		points := make([]linedrawing.Point, len(l.Points))
		for k, q := range l.Points {
			points[k].X, points[k].Y = place(q)
		}
		points = trimmed(points, l.Behind, pens.Gap)
		if lengthOf(points) < shortest {
			continue
		}
		o := &outlines[3]
		switch {
		case l.Hidden:
			o = &outlines[0]
		case l.Clear:
			o = &outlines[1]
		case l.Kind == linedrawing.Flow:
			o = &outlines[2]
		case l.Kind == linedrawing.Contour:
			o = &outlines[4]
		}
		o.follow(linedrawing.Fit(points, fitWithin))
	}
	for i, pen := range [5]Pen{pens.Hidden, pens.Clear, pens.Flow, pens.Feature, pens.Contour} {
		p.Stroke(&outlines[i], pen)
	}
}

// follow draws a path.
func (o *Outline) follow(path linedrawing.Path) {
	o.Move(path.From.X, path.From.Y)
	for _, c := range path.Curves {
		if c.Straight {
			o.Line(c.To.X, c.To.Y)
		} else {
			o.Curve(c.C1.X, c.C1.Y, c.C2.X, c.C2.Y, c.To.X, c.To.Y)
		}
	}
	if path.Closed {
		o.Close()
	}
}

func lengthOf(points []linedrawing.Point) (sum float64) {
	for i := 1; i < len(points); i++ {
		sum += math.Hypot(points[i].X-points[i-1].X, points[i].Y-points[i-1].Y)
	}
	return sum
}

// trimmed takes a gap off the ends of a line that go on behind something.
func trimmed(points []linedrawing.Point, behind [2]bool, gap float64) []linedrawing.Point {
	if gap <= 0 || !behind[0] && !behind[1] {
		return points
	}
	ends := gap
	if behind[0] && behind[1] {
		ends = 2 * gap
	}
	if lengthOf(points) < 2*ends { // short pieces would be lost
		return points
	}
	if behind[0] {
		points = cut(points, gap)
	}
	if behind[1] {
		points = reversed(cut(reversed(points), gap))
	}
	return points
}

// cut takes a length off the beginning of a line.
func cut(points []linedrawing.Point, length float64) []linedrawing.Point {
	for i := 1; i < len(points); i++ {
		a, b := points[i-1], points[i]
		d := math.Hypot(b.X-a.X, b.Y-a.Y)
		if d > length {
			u := length / d
			return append([]linedrawing.Point{{X: a.X + u*(b.X-a.X), Y: a.Y + u*(b.Y-a.Y)}}, points[i:]...)
		}
		length -= d
	}
	return points[len(points)-1:]
}

func reversed(points []linedrawing.Point) []linedrawing.Point {
	out := make([]linedrawing.Point, len(points))
	for i, p := range points {
		out[len(out)-1-i] = p
	}
	return out
}
