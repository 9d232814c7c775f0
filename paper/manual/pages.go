package manual

import (
	"fmt"
	"slices"

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
		if s.Pictures[i].seen() {
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
