package render

import "slowreveal/core/look"

// Captions sets titles and instructions at the foot of pictures of one size.
type Captions struct {
	title, text   *typeface
	width, height int
	set           map[string][]placed
}

// placed is a line with its place.
type placed struct {
	line line
	x, y float64
	ink  [3]float32
}

// NewCaptions returns captions for pictures of the given size in pixels.
func NewCaptions(width, height int) (*Captions, error) {
	title, err := loadTypeface("schibsted-grotesk-latin-600-normal", "schibsted-grotesk-latin-ext-600-normal",
		"literata-greek-400-normal", "literata-cyrillic-400-normal")
	if err != nil {
		return nil, err
	}
	text, err := loadTypeface("literata-latin-400-normal", "literata-latin-ext-400-normal", "literata-greek-400-normal",
		"literata-cyrillic-400-normal")
	if err != nil {
		return nil, err
	}
	return &Captions{title: title, text: text, width: width, height: height, set: map[string][]placed{}}, nil
}

// maxLines bounds an instruction; what does not fit is for the manual.
const maxLines = 3

// Draw sets a step's title and instruction into the lower left of the safe
// area (5 % of each side; common practice, no source).
func (c *Captions) Draw(p *Picture, title, instruction string) {
	key := title + "\x00" + instruction
	lines, ok := c.set[key]
	if !ok {
		lines = c.layOut(title, instruction)
		c.set[key] = lines
	}
	for i := range lines {
		l := &lines[i]
		l.line.draw(p, l.x, l.y, l.ink)
	}
}

func (c *Captions) layOut(title, instruction string) []placed {
	unit := float64(min(c.height, c.width*3/4)) / 1080
	left, foot := 0.05*float64(c.width), 0.945*float64(c.height)
	width := 0.6 * float64(c.width)
	ink := narrow(look.Paper.Ink)
	soft := ink
	for k := range soft {
		soft[k] += (1 - soft[k]) * 0.22
	}
	heads := c.title.shape(title, 38*unit, width)
	texts := c.text.shape(instruction, 29*unit, width)
	if len(texts) > maxLines {
		texts = texts[:maxLines]
	}
	y := foot - float64(len(texts))*41*unit
	out := make([]placed, 0, len(heads)+len(texts))
	for i, l := range heads {
		out = append(out, placed{l, left, y - float64(len(heads)-1-i)*46*unit, ink})
	}
	for i, l := range texts {
		out = append(out, placed{l, left, y + 4*unit + float64(i+1)*41*unit - 2*unit, soft})
	}
	return out
}
