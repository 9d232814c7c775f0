package render

import (
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
)

// Captions sets the words of a reveal into pictures of one size: titles and
// instructions, notes and cards.
type Captions struct {
	title, text   *typeface
	width, height int
	style         reveal.Captions
	ink           [3]float32 // of words that lie on what is behind everything
	set           map[string]*caption
	noteLines     map[string]*line
}

// caption is a step's words, laid out.
type caption struct {
	lines  []placed
	ground [4]float64 // left, top, right, foot; nothing where they are the same
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
	title, err := loadTypeface(given, "schibsted-grotesk-latin-600-normal", "schibsted-grotesk-latin-ext-600-normal",
		"literata-greek-400-normal", "literata-cyrillic-400-normal")
	if err != nil {
		return nil, err
	}
	text, err := loadTypeface(given, "literata-latin-400-normal", "literata-latin-ext-400-normal", "literata-greek-400-normal",
		"literata-cyrillic-400-normal")
	if err != nil {
		return nil, err
	}
	return &Captions{title: title, text: text, width: width, height: height, style: style, ink: narrow(look.Paper.Ink), set: map[string]*caption{}, noteLines: map[string]*line{}}, nil
}

// OnDark sets words in the paper's colour where they lie on what is behind everything: for
// dark backgrounds; before the first picture.
func (c *Captions) OnDark() { c.ink = narrow(look.Paper.PaperTop) }

// Lacks returns the signs of a text for which there is no font, each once.
func (c *Captions) Lacks(text string) []rune { return c.text.lacks(text) }

// unit is what the shares of look.Words are shares of, in pixels.
func (c *Captions) unit() float64 { return float64(min(c.height, c.width*3/4)) }

// Draw sets a step's title and instruction in the style of the reveal.
func (c *Captions) Draw(p *Picture, title, instruction string) {
	switch c.style.Show {
	case reveal.NoWords:
		return
	case reveal.TitleOnly:
		instruction = ""
	}
	key := title + "\x00" + instruction
	laid, ok := c.set[key]
	if !ok {
		set := c.layOut(title, instruction)
		laid = &set
		c.set[key] = laid
	}
	if g := laid.ground; g[2] > g[0] {
		p.fill([][2]float64{{g[0], g[1]}, {g[2], g[1]}, {g[2], g[3]}, {g[0], g[3]}}, narrow(look.Paper.PaperTop), 0.88)
	}
	for i := range laid.lines {
		l := &laid.lines[i]
		l.line.draw(p, l.x, l.y, l.ink)
	}
}

func (c *Captions) layOut(title, instruction string) caption {
	words := look.Words
	unit := c.unit() * c.style.Size
	width := words.Column * float64(c.width)
	ink := c.ink
	if c.style.Ground {
		ink = narrow(look.Paper.Ink)
	}
	soft := ink
	for k := range soft {
		if light := ink[k] > 0.5; light {
			soft[k] *= 1 - 0.22
		} else {
			soft[k] += (1 - soft[k]) * 0.22
		}
	}
	heads := c.title.shape(title, words.Title*unit, width)
	texts := c.text.shape(instruction, words.Text*unit, width)
	if len(texts) > words.Lines {
		texts = texts[:words.Lines]
	}
	if len(heads)+len(texts) == 0 {
		return caption{}
	}
	titleLead, textLead := words.TitleLead*unit, words.TextLead*unit
	high := float64(len(heads))*titleLead + float64(len(texts))*textLead
	top := (1-words.Safe)*float64(c.height) - high
	if c.style.Place == reveal.UpperLeft {
		top = words.Safe * float64(c.height)
	}
	var out caption
	broad := 0.0
	for _, l := range append(heads[:len(heads):len(heads)], texts...) {
		broad = max(broad, l.width)
	}
	left, right, y := float64(c.width), 0.0, top
	add := func(l line, ink [3]float32, lead float64) {
		x := words.Safe * float64(c.width)
		switch {
		case c.style.Place == reveal.LowerMiddle:
			x = (float64(c.width) - l.width) / 2
		case l.leftwards:
			x += broad - l.width
		}
		left, right = min(left, x), max(right, x+l.width)
		y += lead
		out.lines = append(out.lines, placed{l, x, y - 0.26*lead, ink})
	}
	for _, l := range heads {
		add(l, ink, titleLead)
	}
	for _, l := range texts {
		add(l, soft, textLead)
	}
	if pad := words.Ground * unit; c.style.Ground {
		out.ground = [4]float64{left - pad, top - 0.6*pad, right + pad, y + 0.6*pad}
	}
	return out
}

// Card sets a card over the picture.
func (c *Captions) Card(p *Picture, card film.Card) {
	words := look.Words
	unit := c.unit()
	o := float32(card.Opacity)
	w, h := float64(c.width), float64(c.height)
	if !card.Clear {
		p.veil(narrow(look.Paper.PaperTop), o)
	}
	ink := narrow(look.Paper.Ink)
	if card.Clear {
		ink = c.ink
	}
	middle := func(lines []line, y, lead float64) {
		for i := range lines {
			lines[i].drawAt(p, (w-lines[i].width)/2, y+float64(i)*lead, ink, o)
		}
	}
	heads := c.title.shape(card.Title, words.CardTitle*unit, words.CardColumn*w)
	lead := 1.15 * words.CardTitle * unit
	middle(heads, words.CardAt*h-float64(len(heads)-1)*lead-0.12*lead, lead)
	middle(c.text.shape(card.Text, words.CardText*unit, words.CardColumn*w), words.CardAt*h+1.5*words.CardText*unit, 1.4*words.CardText*unit)
}

// The shares of the frame's sides that players are sure to show: for what happens, and for
// words (SMPTE ST 2046-1, from memory).
const (
	safeAction = 0.93
	safeTitle  = 0.90
)

// SafeAreas draws the borders of the safe areas.
func (c *Captions) SafeAreas(p *Picture) {
	w, h, thick := float64(c.width), float64(c.height), max(1, c.unit()/720)
	ink := narrow(look.Paper.Ink)
	for _, share := range [2]float64{safeAction, safeTitle} {
		left, top := w*(1-share)/2, h*(1-share)/2
		for _, side := range [4][4]float64{{left, top, w - left, top}, {w - left, top, w - left, h - top}, {w - left, h - top, left, h - top}, {left, h - top, left, top}} {
			p.fill(strip(side[0], side[1], side[2], side[3], thick), ink, 0.55)
		}
	}
}
