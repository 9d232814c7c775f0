package manual

import (
	"fmt"
	"strings"

	"slowreveal/core/reveal"
	"slowreveal/paper"
)

// block is something that has a height and can be put on a page.
type block struct {
	height float64
	draw   func(p *paper.Page, x, y float64) error
}

// stack puts blocks one below the other.
func stack(blocks ...block) block {
	total := 0.0
	for _, b := range blocks {
		total += b.height
	}
	return block{total, func(p *paper.Page, x, y float64) error {
		for _, b := range blocks {
			if b.draw != nil {
				if err := b.draw(p, x, y); err != nil {
					return err
				}
			}
			y += b.height
		}
		return nil
	}}
}

func gap(height float64) block { return block{height: height} }

// writer makes blocks.
type writer struct {
	content *Content
	fonts   *paper.Fonts
}

// text sets words as a paragraph.
func (w *writer) text(words paper.Words, role paper.Role, text string, width float64) block {
	b := words.Set(text, width)
	return block{b.Height, func(p *paper.Page, x, y float64) error {
		p.Tagged(role, "", func() { b.Draw(p, x, y) })
		return nil
	}}
}

// prose sets instructions: paragraphs and lists.
func (w *writer) prose(text string, size, width float64) block {
	var list []block
	words := w.fonts.Words(paper.Text, size, paper.Ink)
	strong := w.fonts.Words(paper.Strong, size, paper.Ink)
	for _, b := range reveal.Prose(text) {
		var line strings.Builder
		allStrong := len(b.Runs) > 0
		for _, r := range b.Runs {
			line.WriteString(r.Text)
			allStrong = allStrong && r.Strong
		}
		set := words
		if allStrong {
			set = strong
		}
		if !b.Item {
			list = append(list, w.text(set, paper.Paragraph, line.String(), width), gap(size*0.35))
			continue
		}
		indent := 1.4 * size
		lines := set.Set(line.String(), width-indent)
		list = append(list, block{lines.Height, func(p *paper.Page, x, y float64) error {
			p.Tagged(paper.Entry, "", func() {
				p.Say(set, "–", x, y+0.98*size)
				lines.Draw(p, x+indent, y)
			})
			return nil
		}}, gap(size*0.2))
	}
	return stack(list...)
}

// notice draws a safety message.
func (w *writer) notice(n *reveal.Notice, size, width float64) block {
	probe := paper.NewPage(10, 10)
	height := probe.Signal(w.fonts, n, size, 0, 0, width, false)
	return block{height, func(p *paper.Page, x, y float64) error {
		p.Tagged(paper.Message, "", func() { p.Signal(w.fonts, n, size, x, y, width, true) })
		return nil
	}}
}

// pictures puts those of a step beside one another, in rows of so many.
func (w *writer) pictures(s *Step, width float64, across int) block {
	var list []block
	var shown []*Picture
	for i := range s.Pictures {
		if s.Pictures[i].seen() {
			shown = append(shown, &s.Pictures[i])
		}
	}
	const between = 4
	if len(shown) == 1 && across > 1 { // one alone need not fill the page
		width *= 0.66
	}
	across = max(1, min(across, len(shown)))
	each := (width - float64(across-1)*between) / float64(across)
	for from := 0; from < len(shown); from += across {
		row := shown[from:min(from+across, len(shown))]
		list = append(list, block{each / Aspect, func(p *paper.Page, x, y float64) (err error) {
			for i, pic := range row {
				box := paper.Box{X: x + float64(i)*(each+between), Y: y, Width: each, Height: each / Aspect}
				p.Tagged(paper.Figure, pic.Alternative, func() {
					if e := w.content.drawPicture(p, w.fonts, pic, box); e != nil {
						err = e
					}
				})
			}
			return err
		}}, gap(between))
	}
	return stack(list...)
}

// heading is a step's number and title.
func (w *writer) heading(s *Step, size, width float64) block {
	number := w.fonts.Words(paper.Title, size*1.45, arrowColour)
	title := w.fonts.Words(paper.Title, size, paper.Ink)
	indent := max(2.1*size, number.Width(fmt.Sprint(s.Number))+0.9*size)
	lines := title.Set(s.Title, width-indent)
	height := max(lines.Height, 1.5*size)
	return block{height + 0.6*size, func(p *paper.Page, x, y float64) error {
		p.Bookmark(fmt.Sprintf("%d  %s", s.Number, s.Title), 1, y-3)
		p.Tagged(paper.Heading2, "", func() {
			p.Say(number, fmt.Sprint(s.Number), x, y+1.12*size)
			lines.Draw(p, x+indent, y)
		})
		return nil
	}}
}

// parts lists the parts of a step with their item numbers.
func (w *writer) parts(s *Step, size, width float64) block {
	if w.content.Settings.NoParts || len(s.Items) == 0 {
		return block{}
	}
	var list []string
	for i, k := range s.Items {
		it := &w.content.Items[k]
		list = append(
			list,
			fmt.Sprintf(
				"%d\u00a0×\u00a0%s\u00a0(%d)",
				s.Count[i],
				strings.ReplaceAll(it.Name, " ", "\u00a0"),
				it.Number,
			),
		)
	}
	return stack(
		w.text(
			w.fonts.Words(paper.Label, size, paper.Grey),
			paper.Paragraph,
			"Parts: "+strings.Join(list, ", "),
			width,
		),
		gap(size*0.6),
	)
}

// step is a whole step: number and title, safety message before what is to be done, instruction, tools, pictures.
func (w *writer) step(s *Step, size, width float64, across int) block {
	list := []block{w.heading(s, size*1.5, width)}
	if s.Notice != nil {
		list = append(list, w.notice(s.Notice, size, width), gap(size*0.8))
	}
	if s.Instruction != "" {
		list = append(list, w.prose(s.Instruction, size, width), gap(size*0.35))
	}
	if len(s.Tools) > 0 {
		list = append(
			list,
			w.text(
				w.fonts.Words(paper.Label, size*0.85, paper.Grey),
				paper.Paragraph,
				"Tools: "+strings.Join(s.Tools, ", "),
				width,
			),
			gap(size*0.4),
		)
	}
	list = append(list, w.parts(s, size*0.85, width), gap(size*0.4), w.pictures(s, width, across))
	return stack(list...)
}
