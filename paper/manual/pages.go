package manual

import (
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/reveal"
	"slowreveal/paper"
)

// layout puts blocks on pages.
type layout struct {
	writer
	width, height              float64
	left, right, top, foot     float64 // margins
	pages                      []*paper.Page
	page                       *paper.Page
	y                          float64
	column, columns            int
	sections                   []section
	bare                       int // pages without running head
	running                    string
	contentsPages              []*paper.Page
	textSize, between, columnW float64
}

// section is an entry of the contents.
type section struct {
	title string
	level int
	page  *paper.Page
}

// Draw puts the manual on pages.
func (c *Content) Draw(fonts *paper.Fonts) ([]*paper.Page, error) {
	l := &layout{
		writer:   writer{c, fonts},
		left:     20,
		right:    20,
		top:      24,
		foot:     20,
		columns:  1,
		textSize: 3.7,
		between:  9,
	}
	width, height, err := c.Settings.Size.Of(nil)
	if err != nil {
		return nil, err
	}
	if width > height {
		width, height = height, width
	}
	l.width, l.height = width, height
	switch c.Settings.Template {
	case Columns:
		l.columns, l.left, l.right, l.textSize, l.between = 2, 16, 16, 3.3, 7
	case Cards:
		l.width, l.height = height/1.41421356, width/1.41421356
		l.left, l.right, l.top, l.foot, l.textSize = 12, 12, 16, 12, 3.5
	case Strip:
		return l.strip()
	}
	l.columnW = (l.width - l.left - l.right - float64(l.columns-1)*8) / float64(l.columns)
	if err := l.all(); err != nil {
		return nil, err
	}
	l.finish()
	return l.pages, nil
}

// all lays out everything, in its order.
func (l *layout) all() error {
	c := l.content
	if !c.Settings.NoCover {
		if err := l.cover(); err != nil {
			return err
		}
	}
	columns := l.columns
	l.columns = 1
	l.columnW = l.width - l.left - l.right
	if len(c.Steps) > 3 && c.Settings.Template != Cards {
		l.newPage("Contents")
		l.contentsPages = append(l.contentsPages, l.page)
		for n := len(c.Steps) + 6; n > l.contentsRows(); n -= l.contentsRows() {
			l.newPage("Contents")
			l.contentsPages = append(l.contentsPages, l.page)
		}
	}
	if err := l.before(); err != nil {
		return err
	}
	l.columns = columns
	l.columnW = (l.width - l.left - l.right - float64(l.columns-1)*8) / float64(l.columns)
	if err := l.steps(); err != nil {
		return err
	}
	l.columns, l.columnW = 1, l.width-l.left-l.right
	return l.after()
}

// newPage begins a page.
func (l *layout) newPage(running string) {
	l.page = paper.NewPage(l.width, l.height)
	l.pages = append(l.pages, l.page)
	l.y, l.column, l.running = l.top, 0, running
	if running == "" {
		l.bare++
		return
	}
	words := l.fonts.Words(paper.Label, 2.6, paper.Grey)
	y := l.top - 8
	l.page.Say(words, words.Fitted(l.content.Settings.Title, (l.width-l.left-l.right)/2), l.left, y)
	l.page.SayRight(words, words.Fitted(running, (l.width-l.left-l.right)/2), l.width-l.right, y)
	l.page.Line(l.left, y+1.8, l.width-l.right, y+1.8, paper.Pen{Width: 0.18, Ink: paper.Hair})
}

// put puts a block where there is room for it: in this column, the next one, or on a new page. What is higher than a
// page gets one of its own.
func (l *layout) put(b block) error {
	for l.y+b.height > l.height-l.foot && l.y > l.top {
		if l.column+1 < l.columns {
			l.column++
			l.y = l.top
		} else {
			l.newPage(l.running)
		}
	}
	x := l.left + float64(l.column)*(l.columnW+8)
	y := l.y
	l.y += b.height
	if b.draw == nil {
		return nil
	}
	return b.draw(l.page, x, y)
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

// before is what is read before the steps: safety, what is needed, the introduction.
func (l *layout) before() error {
	c := l.content
	var notices []*Step
	for i := range c.Steps {
		if c.Steps[i].Notice != nil {
			notices = append(notices, &c.Steps[i])
		}
	}
	begun := false
	begin := func(title string) error {
		if !begun {
			l.newPage("Before you begin")
			begun = true
		} else if err := l.put(gap(6)); err != nil {
			return err
		}
		return l.section(title)
	}
	if len(notices) > 0 {
		if err := begin("Safety"); err != nil {
			return err
		}
		slices.SortStableFunc(
			notices,
			func(a, b *Step) int { return gravity(a.Notice.Signal) - gravity(b.Notice.Signal) },
		)
		for _, s := range notices {
			where := l.text(
				l.fonts.Words(paper.Label, 2.9, paper.Grey),
				paper.Paragraph,
				fmt.Sprintf("Step %d: %s", s.Number, s.Title),
				l.columnW,
			)
			if err := l.put(stack(l.notice(s.Notice, l.textSize, l.columnW), gap(1), where, gap(4))); err != nil {
				return err
			}
		}
	}
	if c.Settings.Intro != "" {
		if err := begin("Introduction"); err != nil {
			return err
		}
		if err := l.put(l.prose(c.Settings.Intro, l.textSize, l.columnW)); err != nil {
			return err
		}
	}
	if len(c.Tools) > 0 {
		if err := begin("Tools"); err != nil {
			return err
		}
		for _, t := range c.Tools {
			if err := l.put(l.prose("- "+t, l.textSize, l.columnW)); err != nil {
				return err
			}
		}
	}
	return nil
}

// gravity orders signal words from the gravest to the mildest.
func gravity(s reveal.Signal) int {
	return slices.Index([]reveal.Signal{reveal.Danger, reveal.Warning, reveal.Caution, reveal.NoticeWord}, s)
}

// steps puts the steps on pages; none is torn apart.
func (l *layout) steps() error {
	c := l.content
	l.newPage("Steps")
	for i := range c.Steps {
		s := &c.Steps[i]
		across := 2
		if c.Settings.Template != Pages {
			across = 1
		}
		b := l.step(s, l.textSize, l.columnW, across)
		switch c.Settings.Template {
		case Single:
			if i > 0 {
				l.newPage("Steps")
			}
			if b.height > l.height-l.top-l.foot { // two large pictures do not fit: beside one another they do
				b = l.step(s, l.textSize, l.columnW, 2)
			}
		case Cards:
			if i > 0 {
				l.newPage("Steps")
			}
			b = l.card(s)
		}
		full := l.y + b.height
		if full > l.height-l.foot && l.y > l.top && l.column+1 >= l.columns {
			l.newPage("Steps")
		}
		if err := l.put(b); err != nil {
			return err
		}
		l.sections = append(l.sections, section{fmt.Sprintf("%d  %s", s.Number, s.Title), 1, l.page})
		l.y += l.between
	}
	return nil
}

// card is a step on a card that lies: its pictures at the left, its words at the right.
func (l *layout) card(s *Step) block {
	w := l.width - l.left - l.right
	words := w * 0.36
	shown := 0
	for i := range s.Pictures {
		if s.Pictures[i].View != nil {
			shown++
		}
	}
	room := l.height - l.top - l.foot
	each := min(w-words-6, (room-4*float64(max(0, shown-1)))/float64(max(1, shown))*Aspect)
	right := *s
	right.Pictures = nil
	text := l.step(&right, l.textSize, words, 1)
	pictures := l.pictures(s, each, 1)
	return block{min(room, max(text.height, pictures.height)), func(p *paper.Page, x, y float64) error {
		if err := text.draw(p, x+w-words, y); err != nil {
			return err
		}
		return pictures.draw(p, x+(w-words-6-each)/2, y)
	}}
}

// after is what follows the steps: closing words and the index of parts.
func (l *layout) after() error {
	c := l.content
	if c.Settings.Closing != "" {
		l.newPage("Afterwards")
		if err := l.section("Afterwards"); err != nil {
			return err
		}
		if err := l.put(l.prose(c.Settings.Closing, l.textSize, l.columnW)); err != nil {
			return err
		}
	}
	if c.Settings.NoParts {
		return nil
	}
	l.newPage("Parts")
	if err := l.section("Parts"); err != nil {
		return err
	}
	return l.index()
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

// panel is the width of a panel of the strip, mm: a third of an A4 sheet that lies (DIN lang).
const panel = 99

// strip is one long page that is folded between the steps.
func (l *layout) strip() ([]*paper.Page, error) {
	c := l.content
	first := 0
	if !c.Settings.NoCover {
		first = 1
	}
	l.height = 210
	l.width = panel * float64(len(c.Steps)+first)
	l.page = paper.NewPage(l.width, l.height)
	l.pages = []*paper.Page{l.page}
	const margin, size = 8, 3.3
	w := float64(panel - 2*margin)
	if first == 1 {
		title := l.fonts.Words(paper.Title, 7, paper.Ink).Set(c.Settings.Title, w)
		l.page.Tagged(paper.Heading1, "", func() { title.Draw(l.page, margin, 16) })
		sub := l.fonts.Words(paper.Label, 4, paper.Grey).Set(c.Settings.Subtitle, w)
		l.page.Tagged(paper.Paragraph, "", func() { sub.Draw(l.page, margin, 18+title.Height) })
		var err error
		l.page.Tagged(paper.Figure, c.Cover.Alternative, func() {
			err = c.drawCover(l.page, paper.Box{X: margin, Y: 90, Width: w, Height: w / Aspect})
		})
		if err != nil {
			return nil, err
		}
	}
	for i := range c.Steps {
		x := panel * float64(i+first)
		if x > 0 {
			l.page.Line(x, 4, x, l.height-4, paper.Pen{Width: 0.13, Ink: paper.Hair, Dashes: []float64{2, 2}})
		}
		b := l.step(&c.Steps[i], size, w, 1)
		if err := b.draw(l.page, x+margin, 14); err != nil {
			return nil, err
		}
	}
	return l.pages, nil
}
