package lettering

import (
	"strings"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/render"
)

// Captions sets the words of a reveal into pictures of one size: titles and
// instructions, notes and cards.
type Captions struct {
	title, text   *typeface
	width, height int
	style         reveal.Captions
	ink           [3]float32 // of words that lie on what is behind everything
	logo          *Logo      // which they do not lie on, when not nil
	set           map[string]*caption
	noteLines     map[string]*line
}

// Said is what a step says in the picture: its words, and what has to be known before it is begun.
type Said struct {
	Title, Instruction string
	Notice             *reveal.Notice
	Tools              []string
}

func (s *Said) key() string {
	key := s.Title + "\x00" + s.Instruction + "\x00" + strings.Join(s.Tools, "\x01")
	if s.Notice != nil {
		key += "\x00" + string(s.Notice.Signal) + "\x00" + s.Notice.Text
	}
	return key
}

// caption is what a step says, laid out: panels lie below lines.
type caption struct {
	lines  []placed
	panels []panel
}

// placed is a line with its place.
type placed struct {
	line line
	x, y float64
	ink  [3]float32
}

// NewCaptions returns captions for pictures of the given size in pixels. given are fonts
// of the user's, for signs that the shipped ones lack.
func NewCaptions(width, height int, style reveal.Captions, given ...*Font) (*Captions, error) {
	title, err := loadTypeface(
		given,
		append(
			[]string{"schibsted-grotesk-latin-600-normal", "schibsted-grotesk-latin-ext-600-normal"},
			literata("600", others...)...)...)
	if err != nil {
		return nil, err
	}
	text, err := loadTypeface(given, append(literata("400", "latin", "latin-ext"), literata("400", others...)...)...)
	if err != nil {
		return nil, err
	}
	return &Captions{
		title:     title,
		text:      text,
		width:     width,
		height:    height,
		style:     style,
		ink:       narrow(look.Default.Ink),
		set:       map[string]*caption{},
		noteLines: map[string]*line{},
	}, nil
}

// others are the scripts beside Latin that the shipped fonts have, titles in the weight of Latin ones.
var others = []string{"greek", "greek-ext", "cyrillic", "cyrillic-ext", "vietnamese"}

func literata(weight string, scripts ...string) (files []string) {
	for _, s := range scripts {
		files = append(files, "literata-"+s+"-"+weight+"-normal")
	}
	return files
}

// OnDark sets words in the background's colour where they lie on what is behind everything: for
// dark backgrounds; before the first picture.
func (c *Captions) OnDark() { c.ink = narrow(look.Default.BackgroundTop) }

// Beside keeps the words of steps off a logo; before the first picture.
func (c *Captions) Beside(g *Logo) { c.logo = g }

// Lacks returns the signs of a text for which there is no font, each once.
func (c *Captions) Lacks(text string) []rune { return c.text.lacks(text) }

// unit is what the shares of look.Words are shares of, in pixels.
func (c *Captions) unit() float64 { return float64(min(c.height, c.width)) }

// Draw sets what a step says in the style of the reveal, as strongly as opacity says. Notice and tools are set also
// where the reveal shows no words.
func (c *Captions) Draw(p *render.Picture, said Said, opacity float64) {
	laid := c.laid(said)
	o := float32(opacity)
	for _, g := range laid.panels {
		fill(p, g.points, g.colour, g.alpha*o)
	}
	for i := range laid.lines {
		l := &laid.lines[i]
		l.line.drawAt(p, l.x, l.y, l.ink, o)
	}
}

// laid is what a step says as the reveal has its words, laid out once.
func (c *Captions) laid(said Said) *caption {
	switch c.style.Show {
	case reveal.NoWords:
		said.Title, said.Instruction = "", ""
	case reveal.TitleOnly:
		said.Instruction = ""
	}
	key := said.key()
	laid, ok := c.set[key]
	if !ok {
		set := c.layOut(said)
		laid = &set
		c.set[key] = laid
	}
	return laid
}

// softer is an ink that stands back behind another.
func softer(ink [3]float32) [3]float32 {
	for k := range ink {
		if light := ink[k] > 0.5; light {
			ink[k] *= 1 - 0.22
		} else {
			ink[k] += (1 - ink[k]) * 0.22
		}
	}
	return ink
}

// toolsWord stands before the tools of a step.
const toolsWord = "Tools: "

// ranged is a line of a caption and how far it is from the one before.
type ranged struct {
	line line
	ink  [3]float32
	lead float64
}

func (c *Captions) layOut(said Said) caption {
	words := look.Words
	unit := c.unit() * c.style.Size
	width := words.Column * float64(c.width)
	ink := c.ink
	if c.style.Backing {
		ink = narrow(look.Default.Ink)
	}
	titleLead, textLead := words.TitleLead*unit, words.TextLead*unit
	var rows []ranged
	for _, l := range c.title.shape(said.Title, words.Title*unit, width) {
		rows = append(rows, ranged{l, ink, titleLead})
	}
	texts := c.text.shape(said.Instruction, words.Text*unit, width)
	for _, l := range texts[:min(len(texts), words.Lines)] {
		rows = append(rows, ranged{l, softer(ink), textLead})
	}
	if len(said.Tools) > 0 {
		for _, l := range c.text.shape(toolsWord+strings.Join(said.Tools, ", "), words.Tools*unit, width) {
			rows = append(rows, ranged{l, softer(ink), words.ToolsLead * unit})
		}
	}
	var warns notice
	if said.Notice != nil {
		warns = c.layNotice(said.Notice, words.Text*unit, textLead, width)
	}
	return c.stack(rows, warns, words.Backing*unit)
}

// stack sets a notice and lines below each other where the reveal has its words.
func (c *Captions) stack(rows []ranged, warns notice, pad float64) caption {
	words := look.Words
	var out caption
	broad, high := warns.width, warns.height
	for i := range rows {
		broad = max(broad, rows[i].line.width)
		high += rows[i].lead
	}
	if high == 0 {
		return out
	}
	if warns.height > 0 && len(rows) > 0 {
		high += pad
	}
	y := (1-words.Safe)*float64(c.height) - high
	if c.style.Place == reveal.UpperLeft {
		y = words.Safe * float64(c.height)
	}
	y += c.makeRoom(broad, high, y, pad)
	at := func(width float64, leftwards bool) float64 {
		switch {
		case c.style.Place == reveal.LowerMiddle:
			return (float64(c.width) - width) / 2
		case leftwards:
			return words.Safe*float64(c.width) + broad - width
		}
		return words.Safe * float64(c.width)
	}
	if warns.height > 0 {
		x := at(warns.width, false)
		if c.style.Backing && c.style.Place != reveal.LowerMiddle {
			x -= pad // in line with the plate
		}
		warns.under(&out, x, y)
		y += warns.height + pad
	}
	left, right, top := float64(c.width), 0.0, y
	var lines []placed
	for i := range rows {
		x := at(rows[i].line.width, rows[i].line.leftwards)
		left, right = min(left, x), max(right, x+rows[i].line.width)
		y += rows[i].lead
		lines = append(lines, placed{rows[i].line, x, y - 0.26*rows[i].lead, rows[i].ink})
	}
	if c.style.Backing && len(rows) > 0 {
		out.panels = append(
			out.panels,
			panel{
				rectangle(left-pad, top-0.6*pad, right+pad, y+0.6*pad),
				narrow(look.Default.BackgroundTop),
				float32(words.BackingAlpha),
			},
		)
	}
	out.lines = append(out.lines, lines...)
	return out
}

// makeRoom returns how far a block of words at a height moves down, or up, to leave the logo alone.
func (c *Captions) makeRoom(broad, high, y, pad float64) float64 {
	if c.logo == nil {
		return 0
	}
	x := look.Words.Safe * float64(c.width)
	if c.style.Place == reveal.LowerMiddle {
		x = (float64(c.width) - broad) / 2
	}
	left, top, w, h := c.logo.place(c.width, c.height)
	if x+broad+2*pad < float64(left) || x-2*pad > float64(left+w) || y+high+2*pad < float64(top) ||
		y-2*pad > float64(top+h) {
		return 0
	}
	if c.style.Place == reveal.UpperLeft {
		return float64(top+h) + 2*pad - y
	}
	return float64(top) - 2*pad - high - y
}

// Card sets a card over the picture.
func (c *Captions) Card(p *render.Picture, card film.Card) {
	o := float32(card.Opacity)
	if !card.Clear {
		veil(p, narrow(look.Default.BackgroundTop), o)
	}
	lines := c.cardLines(&card)
	for i := range lines {
		lines[i].line.drawAt(p, lines[i].x, lines[i].y, lines[i].ink, o)
	}
}

// cardLines are the lines of a card in their places.
func (c *Captions) cardLines(card *film.Card) (list []placed) {
	words := look.Words
	unit := c.unit()
	w, h := float64(c.width), float64(c.height)
	ink := narrow(look.Default.Ink)
	if card.Clear {
		ink = c.ink
	}
	middle := func(lines []line, y, lead float64) {
		for i := range lines {
			list = append(list, placed{lines[i], (w - lines[i].width) / 2, y + float64(i)*lead, ink})
		}
	}
	heads := c.title.shape(card.Title, words.CardTitle*unit, words.CardColumn*w)
	lead := 1.15 * words.CardTitle * unit
	middle(heads, words.CardAt*h-float64(len(heads)-1)*lead-0.12*lead, lead)
	middle(
		c.text.shape(card.Text, words.CardText*unit, words.CardColumn*w),
		words.CardAt*h+1.5*words.CardText*unit,
		1.4*words.CardText*unit,
	)
	return list
}

// The shares of the frame's sides that players are sure to show: for what happens, and for
// words (SMPTE ST 2046-1, from memory).
const (
	safeAction = 0.93
	safeTitle  = 0.90
)

// SafeAreas draws the borders of the safe areas.
func (c *Captions) SafeAreas(p *render.Picture) {
	w, h, thick := float64(c.width), float64(c.height), max(1, c.unit()/720)
	ink := narrow(look.Default.Ink)
	for _, share := range [2]float64{safeAction, safeTitle} {
		left, top := w*(1-share)/2, h*(1-share)/2
		for _, side := range [4][4]float64{{left, top, w - left, top}, {w - left, top, w - left, h - top}, {w - left, h - top, left, h - top}, {left, h - top, left, top}} {
			fill(p, strip(side[0], side[1], side[2], side[3], thick), ink, 0.55)
		}
	}
}
