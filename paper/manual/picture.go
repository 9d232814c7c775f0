package manual

import (
	"image"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/paper"
)

// arrowColour is that of what moves, as it is tinted.
var arrowColour = paper.Colour([3]float64{0.78, 0.22, 0.13})

// lookPixels is the height of the picture in which places for references are looked for.
const lookPixels = 420

// draw puts a picture into a box of the page: its lines, arrows of what moves, and references to items.
func (c *Content) drawPicture(p *paper.Page, fonts *paper.Fonts, pic *Picture, box paper.Box) error {
	if pic.Image != nil {
		p.Image(pic.Image, fitted(pic.Image.Bounds().Size(), box.In(0.4)))
		p.Stroke(box.Outline(), paper.Pen{Width: 0.18, Ink: paper.Hair, Square: true})
		return nil
	}
	if pic.View == nil {
		return nil
	}
	k := box.Width / 170 // lines are finer in small pictures
	pens := paper.UsualPens(max(0.25, min(0.5, 0.5*k+0.1)))
	place := pic.place(box)
	if err := p.Draw(pic.View, place, pens); err != nil {
		return err
	}
	projection := film.ProjectionOf(pic.Camera, Aspect)
	across, up := film.Field(pic.Camera.FocalLength, Aspect)
	if pic.Camera.Orthographic {
		across, up = across*pic.Camera.Distance, up*pic.Camera.Distance
	}
	for _, way := range pic.Arrows {
		var points []linedrawing.Point
		for _, q := range way {
			x, y, front := projection.Project(q)
			if front {
				x, y = place(linedrawing.Point{X: (2*x - 1) * across, Y: (1 - 2*y) * up})
				points = append(points, linedrawing.Point{X: x, Y: y})
			}
		}
		p.Arrow(within(points, box.In(1.5)), max(0.7, 1.6*k), arrowColour)
	}
	p.Stroke(box.Outline(), paper.Pen{Width: 0.18, Ink: paper.Hair, Square: true})
	if c.Settings.NoReferences || len(pic.Refer) == 0 {
		return nil
	}
	return c.refer(p, fonts, pic, place, box)
}

// fitted is the middle of a box that has the shape of a picture.
func fitted(size image.Point, box paper.Box) paper.Box {
	scale := min(box.Width/float64(size.X), box.Height/float64(size.Y))
	w, h := scale*float64(size.X), scale*float64(size.Y)
	return paper.Box{X: box.X + (box.Width-w)/2, Y: box.Y + (box.Height-h)/2, Width: w, Height: h}
}

// place puts what the picture shows into a box, with a margin.
func (pic *Picture) place(box paper.Box) paper.Place {
	const margin = 0.06
	inner := box.In(margin * box.Height)
	scale := min(inner.Width/max(pic.Max.X-pic.Min.X, 1e-9), inner.Height/max(pic.Max.Y-pic.Min.Y, 1e-9))
	mx, my := (pic.Min.X+pic.Max.X)/2, (pic.Min.Y+pic.Max.Y)/2
	x, y := box.X+box.Width/2, box.Y+box.Height/2
	return func(q linedrawing.Point) (float64, float64) { return x + (q.X-mx)*scale, y - (q.Y-my)*scale }
}

// within is a line as far as it runs inside of a box, from its beginning.
func within(points []linedrawing.Point, box paper.Box) []linedrawing.Point {
	if i := slices.IndexFunc(points, func(q linedrawing.Point) bool { return !box.Holds(q.X, q.Y) }); i >= 0 {
		return points[:i]
	}
	return points
}

// refer draws the item references along the border of a picture.
func (c *Content) refer(p *paper.Page, fonts *paper.Fonts, pic *Picture, place paper.Place, box paper.Box) error {
	anchors, err := pic.View.Anchors(place, lookPixels)
	if err != nil {
		return err
	}
	radius := max(2, min(3.2, box.Width/40))
	candidates, count := item.Gather(c.Items, pic.Refer, anchors, func(a item.Candidate) bool {
		return slices.Contains(pic.Marked, a.Node) && box.In(radius).Holds(a.X, a.Y)
	})
	inner := box.In(3.4 * radius)
	area := item.Area{
		InnerMin: item.Point{X: inner.X, Y: inner.Y}, InnerMax: item.Point{X: inner.Right(), Y: inner.Foot()},
		OuterMin: item.Point{
			X: box.X + 0.8,
			Y: box.Y + 0.8,
		}, OuterMax: item.Point{X: box.Right() - 0.8, Y: box.Foot() - 0.8},
		Radius: radius,
	}
	area.Shrink(count, 1.5)
	placed, _ := item.Place(candidates, area)
	for i := range placed {
		p.Balloon(fonts, &placed[i], c.Items[placed[i].Item].Number, area.Radius)
	}
	return nil
}
