package sheet

import (
	"fmt"
	"image"
	"math"

	"slowreveal/paper"
)

// Widths of lines of the frame, mm (ISO 5457, from memory, as all of this file).
const (
	wide   = 0.7
	narrow = 0.35
	hair   = 0.18
)

// frame draws border, centring marks and zones, and returns the drawing space: 20 mm from the left side, where it is
// filed, 10 mm from the others.
func frame(p *paper.Page, fonts *paper.Fonts) paper.Box {
	space := paper.Box{X: 20, Y: 10, Width: p.Width - 30, Height: p.Height - 20}
	pen := paper.Pen{Width: wide, Ink: paper.Ink, Square: true}
	zones(p, fonts, space)
	p.Stroke(space.Outline(), pen)
	const mark = 5 // beyond the frame, to where the grid of zones begins
	x, y := p.Width/2, p.Height/2
	p.Line(x, space.Y-mark-4, x, space.Y+mark, pen)
	p.Line(x, space.Foot()+mark+4, x, space.Foot()-mark, pen)
	p.Line(space.X-mark-4, y, space.X+mark, y, pen)
	p.Line(space.Right()+mark+4, y, space.Right()-mark, y, pen)
	return space
}

// zones draws the grid: fields of 50 mm from the centring marks on, letters from the top down without I and O,
// numbers from left to right. An A4 sheet has them at its top and right only.
func zones(p *paper.Page, fonts *paper.Fonts, space paper.Box) {
	const field, strip = 50, 5
	pen := paper.Pen{Width: narrow, Ink: paper.Ink, Square: true}
	outer := space.In(-strip)
	p.Stroke(outer.Outline(), pen)
	words := fonts.Words(paper.Label, 3.5, paper.Ink)
	small := min(p.Width, p.Height) <= 216
	cuts := func(middle, from, to float64) []float64 {
		list := []float64{from}
		n := math.Floor((middle - from - 1) / field)
		for v := middle - n*field; v < to-1; v += field {
			list = append(list, v)
		}
		return append(list, to)
	}
	columns, rows := cuts(p.Width/2, space.X, space.Right()), cuts(p.Height/2, space.Y, space.Foot())
	for i := 1; i < len(columns); i++ {
		name, x := fmt.Sprint(i), (columns[i-1]+columns[i])/2
		p.SayMiddle(words, name, x, space.Y-1.3)
		if !small {
			p.SayMiddle(words, name, x, space.Foot()+strip-1.3)
		}
		if i < len(columns)-1 {
			p.Line(columns[i], space.Y-strip, columns[i], space.Y, pen)
			p.Line(columns[i], space.Foot(), columns[i], space.Foot()+strip, pen)
		}
	}
	const letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
	for i := 1; i < len(rows); i++ {
		name, y := letters[i-1:i], (rows[i-1]+rows[i])/2+1.2
		p.SayMiddle(words, name, space.Right()+strip/2, y)
		if !small {
			p.SayMiddle(words, name, space.X-strip/2, y)
		}
		if i < len(rows)-1 {
			p.Line(space.X-strip, rows[i], space.X, rows[i], pen)
			p.Line(space.Right(), rows[i], space.Right()+strip, rows[i], pen)
		}
	}
}

// titleHeight and titleWidth are the title block's, mm (ISO 7200: 180 wide).
const (
	titleWidth  = 180
	titleHeight = 36
)

// cell is a field of the title block: where it is, what it is called, what it says.
type cell struct {
	x, y, width, height float64
	label, text         string
	size                float64
}

// titled is what a title block says of its sheet.
type titled struct{ scale, number string }

// titleBlock draws the title block into the lower right corner of the drawing space and returns its box.
func titleBlock(
	p *paper.Page, fonts *paper.Fonts, space paper.Box, t *TitleBlock, of titled, set Settings, logo image.Image,
) paper.Box {
	box := paper.Box{
		X:      space.Right() - titleWidth,
		Y:      space.Foot() - titleHeight,
		Width:  titleWidth,
		Height: titleHeight,
	}
	if box.X < space.X { // on a sheet that is narrower than it
		box.X, box.Width = space.X, space.Width
	}
	k := box.Width / titleWidth
	cells := []cell{
		{0, 0, 34, 9, "Responsible department", t.Department, 3},
		{34, 0, 35, 9, "Technical reference", t.Reference, 3},
		{69, 0, 56, 9, "Document type", t.DocumentType, 3},
		{125, 0, 55, 9, "Document status", t.Status, 3},
		{0, 9, 69, 18, "Legal owner", t.Owner, 4},
		{69, 9, 56, 18, "Title, supplementary title", "", 0},
		{125, 9, 55, 9, "Identification number", t.Number, 4},
		{125, 18, 13, 9, "Rev.", t.Revision, 3},
		{138, 18, 21, 9, "Date of issue", t.Date, 3},
		{159, 18, 9, 9, "Lang.", t.Language, 3},
		{168, 18, 12, 9, "Sheet", of.number, 3},
		{0, 27, 34, 9, "Created by", t.Creator, 3},
		{34, 27, 35, 9, "Approved by", t.Approver, 3},
		{69, 27, 28, 9, "Scale", of.scale, 3.5},
		{97, 27, 14, 9, "Size", string(set.Size), 3},
		{111, 27, 14, 9, "", "", 0},
		{125, 27, 55, 9, "Made with", "Slow Reveal", 2.6},
	}
	label := fonts.Words(paper.Label, 2.3, paper.Grey)
	pen := paper.Pen{Width: hair, Ink: paper.Ink, Square: true}
	for _, c := range cells {
		at := paper.Box{X: box.X + c.x*k, Y: box.Y + c.y, Width: c.width * k, Height: c.height}
		p.Stroke(at.Outline(), pen)
		p.Say(label, label.Fitted(c.label, at.Width-2), at.X+1.1, at.Y+2.6)
		if c.text != "" {
			words := fonts.Words(paper.Title, c.size, paper.Ink)
			p.Say(words, words.Fitted(c.text, at.Width-2.4), at.X+1.2, at.Foot()-1.9)
		}
	}
	titles(p, fonts, paper.Box{X: box.X + 69*k, Y: box.Y + 9, Width: 56 * k, Height: 18}, t)
	if logo != nil {
		place(p, logo, paper.Box{X: box.X + 2, Y: box.Y + 12.5, Width: 30 * k, Height: 8})
	}
	symbol(p, box.X+118*k, box.Y+31.5, set.FirstAngle)
	p.Stroke(box.Outline(), paper.Pen{Width: wide, Ink: paper.Ink, Square: true})
	return box
}

// titles sets title and supplementary title on up to three lines.
func titles(p *paper.Page, fonts *paper.Fonts, at paper.Box, t *TitleBlock) {
	words := fonts.Words(paper.Title, 4.4, paper.Ink)
	b := words.Set(t.Title, at.Width-2.4)
	if b.Lines > 2 || b.Lines > 1 && t.Supplement != "" {
		words = fonts.Words(paper.Title, 3.4, paper.Ink)
		b = words.Set(words.Fitted(t.Title, 1.9*(at.Width-2.4)), at.Width-2.4)
	}
	b.Draw(p, at.X+1.2, at.Y+3.4)
	second := fonts.Words(paper.Label, 3, paper.Ink)
	p.Say(second, second.Fitted(t.Supplement, at.Width-2.4), at.X+1.2, at.Foot()-1.7)
}

// place puts a picture into a box without changing its shape, at its left.
func place(p *paper.Page, img image.Image, box paper.Box) {
	size := img.Bounds().Size()
	k := min(box.Width/float64(size.X), box.Height/float64(size.Y))
	p.Image(img, paper.Box{X: box.X, Y: box.Y, Width: k * float64(size.X), Height: k * float64(size.Y)})
}

// symbol draws that of the method of projection (ISO 5456-2): a blunt cone from its side, and as seen from its small
// end, which in first-angle projection is on the far side of it, in third-angle projection on the near side.
func symbol(p *paper.Page, x, y float64, firstAngle bool) {
	pen, axis := paper.Pen{
		Width: narrow,
		Ink:   paper.Ink,
	}, paper.Pen{
		Width:  hair,
		Ink:    paper.Ink,
		Dashes: []float64{1.6, 0.4, 0.2, 0.4},
	}
	cone, circles := x-3, x+3
	if !firstAngle {
		cone, circles = x+3, x-3
	}
	var o paper.Outline
	o.Move(cone-2.2, y-1)
	o.Line(cone+2.2, y-2)
	o.Line(cone+2.2, y+2)
	o.Line(cone-2.2, y+1)
	o.Close()
	p.Stroke(&o, pen)
	p.Stroke(paper.Circle(circles, y, 2), pen)
	p.Stroke(paper.Circle(circles, y, 1), pen)
	p.Line(x-6.2, y, x+6.2, y, axis)
	p.Line(circles, y-2.8, circles, y+2.8, axis)
}
