package sheet

import (
	"slices"

	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/core/reveal"
	"slowreveal/paper"
)

// label writes what a view is, below it: by its title, or the step that it shows the end of.
func (d *drawer) label(v *view, box paper.Box, scale float64, at, first paper.Place) {
	text := v.set.Title
	if text == "" && len(d.out.Boxes) > 1 {
		text = d.stepAt(*v.set.At)
	}
	switch {
	case v.detail != nil:
		v.detail.draw(d, at, first, v.letter)
		text = v.letter
	case v.set.Section != nil && v.set.Title == "":
		text = v.letter + "–" + v.letter
	}
	if !v.set.Perspective && scale != d.out.Scales[0] || v.detail != nil {
		text += " (" + scaleName(scale) + ")"
	}
	words := d.fonts.Words(paper.Title, 3.6, paper.Ink)
	d.page.SayMiddle(words, words.Fitted(text, box.Width-8), box.X+box.Width/2, box.Foot()-6)
}

// stepAt is the title of the step that has just ended, "" before the first.
func (d *drawer) stepAt(t reveal.Micros) (title string) {
	film := d.subject.Film
	for i := range film.Schedule.Steps {
		if s := &film.Schedule.Steps[i]; !s.Muted && t >= s.Start+s.Duration {
			title = film.Reveal.Steps[i].Title
		}
	}
	return title
}

// refer puts the references of those items that the view shows around it, and returns the others.
func (d *drawer) refer(v *view, box paper.Box, at paper.Place, left []int) ([]int, error) {
	anchors, err := v.Anchors(at, paper.AnchorPixels)
	if err != nil {
		return nil, err
	}
	candidates, some := item.Gather(d.out.Items, left, anchors, nil)
	x0, y0 := at(linedrawing.Point{X: v.Min.X, Y: v.Max.Y})
	x1, y1 := at(linedrawing.Point{X: v.Max.X, Y: v.Min.Y})
	area := item.Area{
		InnerMin: item.Point{X: x0, Y: y0}, InnerMax: item.Point{X: x1, Y: y1},
		OuterMin: item.Point{X: box.X + 2, Y: box.Y + 2}, OuterMax: item.Point{X: box.Right() - 2, Y: box.Foot() - 9},
		Radius: radius, Fixed: map[int]item.Point{},
	}
	for i := range d.out.Items {
		if p, ok := d.set.Places[d.out.Items[i].Key]; ok {
			area.Fixed[i] = item.Point{X: p[0], Y: p[1]}
		}
	}
	area.Shrink(some, leastRadius)
	placed, missing := item.Place(candidates, area)
	for i := range placed {
		d.out.Radii = append(d.out.Radii, area.Radius)
		if !d.set.Undrawn {
			d.page.Balloon(d.fonts, &placed[i], d.out.Items[placed[i].Item].Number, area.Radius)
		}
	}
	d.out.References = append(d.out.References, placed...)
	return slices.DeleteFunc(missing, func(i int) bool { return !slices.Contains(left, i) }), nil
}
