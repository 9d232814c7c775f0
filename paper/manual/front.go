package manual

import (
	"fmt"
	"slices"
	"strings"

	"slowreveal/paper"
)

// section is an entry of the contents.
type section struct {
	title string
	level int
	page  *paper.Page
}

// section is a title of the highest level.
func (l *layout) section(title string) error {
	l.sections = append(l.sections, section{title, 0, l.page})
	l.page.Bookmark(title, 0, l.y-4)
	return l.put(stack(l.text(l.fonts.Words(paper.Title, 7, paper.Ink), paper.Heading1, title, l.columnW), gap(5)))
}

// cover is the first page.
func (l *layout) cover() error {
	c := l.content
	l.newPage("")
	p := l.page
	s := c.Settings
	w := l.width - l.left - l.right
	if s.Owner != "" {
		p.Tagged(
			paper.Paragraph,
			"",
			func() { p.Say(l.fonts.Words(paper.Title, 4, paper.Ink), s.Owner, l.left, l.top) },
		)
	}
	p.Line(l.left, l.top+6, l.width-l.right, l.top+6, paper.Pen{Width: 0.7, Ink: paper.Ink, Square: true})
	title := l.fonts.Words(paper.Title, min(11, l.width/20), paper.Ink).Set(s.Title, w)
	y := l.top + 12.0
	p.Tagged(paper.Heading1, "", func() { title.Draw(p, l.left, y) })
	y += title.Height + 2
	sub := l.fonts.Words(paper.Label, 5, paper.Grey).Set(s.Subtitle, w)
	p.Tagged(paper.Paragraph, "", func() { sub.Draw(p, l.left, y) })
	y += sub.Height + 6
	foot := l.height - l.foot - 10
	high := min(w/Aspect, foot-y-4)
	box := paper.Box{X: l.left + (w-high*Aspect)/2, Y: y + (foot-4-y-high)*0.4, Width: high * Aspect, Height: high}
	var err error
	p.Tagged(paper.Figure, c.Cover.Alternative, func() { err = c.drawCover(p, box) })
	said := []string{}
	for _, f := range [][2]string{{"No. ", s.Number}, {"Revision ", s.Revision}, {"", s.Date}} {
		if f[1] != "" {
			said = append(said, f[0]+f[1])
		}
	}
	p.Line(l.left, foot+4, l.width-l.right, foot+4, paper.Pen{Width: 0.25, Ink: paper.Ink, Square: true})
	if len(said) > 0 {
		p.Tagged(paper.Paragraph, "", func() {
			p.Say(l.fonts.Words(paper.Label, 3.3, paper.Ink), strings.Join(said, "   ·   "), l.left, foot+9)
		})
	}
	return err
}

// drawCover draws the product without a border.
func (c *Content) drawCover(p *paper.Page, box paper.Box) error {
	v := c.Cover.View
	if v == nil {
		return nil
	}
	scale := min(box.Width/max(v.Max.X-v.Min.X, 1e-9), box.Height/max(v.Max.Y-v.Min.Y, 1e-9))
	return p.Draw(v, v.At(box.X+box.Width/2, box.Y+box.Height/2, scale), paper.UsualPens(0.5))
}

// index is the table of parts: item, quantity, name, reference, and the steps that move them.
func (l *layout) index() error {
	c := l.content
	shares := []float64{0.08, 0.08, 0.42, 0.27, 0.15}
	row := func(words paper.Words, cells []string) block {
		return block{5.2, func(p *paper.Page, x, y float64) error {
			p.Tagged(paper.Paragraph, "", func() {
				at := x
				for i, cell := range cells {
					w := shares[i] * l.columnW
					p.Say(words, words.Fitted(cell, w-2), at, y+3.6)
					at += w
				}
			})
			p.Line(x, y+5, x+l.columnW, y+5, paper.Pen{Width: 0.13, Ink: paper.Hair})
			return nil
		}}
	}
	if err := l.put(row(l.fonts.Words(paper.Title, 3, paper.Ink), []string{"Item", "Qty", "Name", "Reference", "Steps"})); err != nil {
		return err
	}
	words := l.fonts.Words(paper.Label, 3, paper.Ink)
	for i := range c.Items {
		it := &c.Items[i]
		var steps []string
		for k := range c.Steps {
			if slices.Contains(c.Steps[k].Items, i) {
				steps = append(steps, fmt.Sprint(c.Steps[k].Number))
			}
		}
		if err := l.put(row(words, []string{fmt.Sprint(it.Number), fmt.Sprint(it.Quantity), it.Name, it.Designation, strings.Join(steps, ", ")})); err != nil {
			return err
		}
	}
	return nil
}

// contentsRows is how many entries a page of contents holds.
func (l *layout) contentsRows() int { return int((l.height - l.top - l.foot - 16) / contentsRow) }

const contentsRow = 6.4

// finish writes what depends on where everything is: page numbers and contents.
func (l *layout) finish() {
	words := l.fonts.Words(paper.Label, 2.8, paper.Grey)
	for i, p := range l.pages {
		if i >= l.bare {
			p.SayRight(words, fmt.Sprintf("%d / %d", i+1, len(l.pages)), l.width-l.right, l.height-l.foot/2)
		}
	}
	rows := l.contentsRows()
	for n, p := range l.contentsPages {
		y := l.top
		if n == 0 {
			p.Bookmark("Contents", 0, y)
			title := l.fonts.Words(paper.Title, 7, paper.Ink)
			p.Tagged(paper.Heading1, "", func() { p.Say(title, "Contents", l.left, y+6.8) })
		}
		y += 16
		for i := n * rows; i < min((n+1)*rows, len(l.sections)); i++ {
			l.entry(p, &l.sections[i], y)
			y += contentsRow
		}
	}
}

func (l *layout) entry(p *paper.Page, s *section, y float64) {
	words, indent := l.fonts.Words(paper.Title, 3.8, paper.Ink), 0.0
	if s.level > 0 {
		words, indent = l.fonts.Words(paper.Label, 3.6, paper.Ink), 6
	}
	number := fmt.Sprint(slices.Index(l.pages, s.page) + 1)
	p.Tagged(paper.Entry, "", func() {
		text := words.Fitted(s.title, l.width-l.left-l.right-indent-16)
		p.Say(words, text, l.left+indent, y)
		p.SayRight(words, number, l.width-l.right, y)
		from, to := l.left+indent+words.Width(text)+2, l.width-l.right-words.Width(number)-2
		if from < to {
			p.Line(from, y-0.2, to, y-0.2, paper.Pen{Width: 0.2, Ink: paper.Hair, Dashes: []float64{0.3, 1.2}})
		}
	})
	p.Link(paper.Box{X: l.left, Y: y - 4, Width: l.width - l.left - l.right, Height: contentsRow}, s.page)
}
