package paper

import (
	"fmt"
	"image/color"
	"math"
	"strings"
	"sync"

	"github.com/tdewolff/canvas"

	"slowreveal/render/lettering"
)

// Style is a cut of letters.
type Style int

// The styles: labels and titles are set in the grotesque, text in the serif.
const (
	Label Style = iota
	Title
	Text
	Strong // text that is to be seen first
)

// others are the scripts beside Latin that the shipped fonts have.
var others = []string{"greek", "greek-ext", "cyrillic", "cyrillic-ext", "vietnamese"}

func shipped(style Style) (names []string) {
	weight := "400"
	if style == Title || style == Strong {
		weight = "600"
	}
	if style == Label || style == Title {
		names = append(names, "schibsted-grotesk-latin-"+weight, "schibsted-grotesk-latin-ext-"+weight)
	} else if style == Text {
		names = append(names, "literata-latin-400", "literata-latin-ext-400")
	} else {
		names = append(names, "schibsted-grotesk-latin-600", "schibsted-grotesk-latin-ext-600")
	}
	for _, script := range others {
		names = append(names, "literata-"+script+"-"+weight)
	}
	return names
}

// Fonts are the letters of one document. They are for one goroutine.
type Fonts struct {
	families map[Style][]*canvas.FontFamily
	setters  map[Style]*lettering.Setter
	given    []*canvas.FontFamily
	raw      []*lettering.Font
}

// NewFonts returns the shipped fonts, and after them those given, for signs that they lack.
func NewFonts(given ...*lettering.Font) (*Fonts, error) {
	f := &Fonts{families: map[Style][]*canvas.FontFamily{}, setters: map[Style]*lettering.Setter{}, raw: given}
	for i, g := range given {
		family := canvas.NewFontFamily(fmt.Sprintf("given-%d", i+1))
		if err := family.LoadFont(g.Data, 0, canvas.FontRegular); err != nil {
			return nil, fmt.Errorf("this font cannot be put into a document: %w", err)
		}
		if err := ready(family); err != nil {
			return nil, err
		}
		f.given = append(f.given, family)
	}
	return f, nil
}

// plain leaves out ligatures that are a matter of taste: their glyphs stand for no letters of their own, so that who
// searches a document would not find “flange”.
const plain = "-liga,-clig"

// ready prepares a family of one font.
func ready(family *canvas.FontFamily) error {
	family.SetFeatures(plain)
	return mendShaper(family.Face(1, canvas.Black, canvas.FontRegular, canvas.FontNormal).Font)
}

// loaded is the shipped fonts as bytes, by file.
var loaded sync.Map

func (f *Fonts) of(style Style) []*canvas.FontFamily {
	if list, ok := f.families[style]; ok {
		return list
	}
	var list []*canvas.FontFamily
	for _, name := range shipped(style) {
		data, known := loaded.Load(name)
		if !known {
			bytes, err := lettering.Shipped(name)
			if err != nil {
				panic("paper: " + err.Error()) // it is part of the program
			}
			data, _ = loaded.LoadOrStore(name, bytes)
		}
		family := canvas.NewFontFamily(name)
		if err := family.LoadFont(data.([]byte), 0, canvas.FontRegular); err != nil {
			panic("paper: " + name + ": " + err.Error())
		}
		if err := ready(family); err != nil {
			panic("paper: " + err.Error())
		}
		list = append(list, family)
	}
	f.families[style] = append(list, f.given...)
	setter, err := lettering.NewSetter(f.raw, shipped(style)...)
	if err != nil {
		panic("paper: " + err.Error())
	}
	f.setters[style] = setter
	return f.families[style]
}

// Words are letters of one style, size and colour.
type Words struct {
	fonts *Fonts
	style Style
	size  float64 // mm
	// Lead is the distance of base lines, mm.
	Lead float64
	ink  color.RGBA
}

// Words returns letters of a size in mm: the height from the foot of a p to the head of an h, about.
func (f *Fonts) Words(style Style, size float64, ink color.RGBA) Words {
	return Words{f, style, size, size * 1.32, ink}
}

const pointsPerMillimetre = 72 / 25.4

func (w Words) face(family *canvas.FontFamily) *canvas.FontFace {
	return family.Face(w.size*pointsPerMillimetre, w.ink, canvas.FontRegular, canvas.FontNormal)
}

// run is a stretch of a line that one font has.
type run struct {
	face *canvas.FontFace
	text string
}

// lines breaks a text into lines of at most a width, mm, each of runs from left to right.
func (w Words) lines(text string, width float64) (list [][]run) {
	families := w.fonts.of(w.style)
	for _, pieces := range w.fonts.setters[w.style].Lines(text, w.size, width) {
		var line []run
		for _, p := range pieces {
			line = append(line, run{w.face(families[p.Font]), p.Text})
		}
		list = append(list, line)
	}
	return list
}

// endless is wider than any page, mm.
const endless = 1e6

// runs are those of a text on one line.
func (w Words) runs(text string) []run {
	if lines := w.lines(strings.ReplaceAll(text, "\n", " "), endless); len(lines) > 0 {
		return lines[0]
	}
	return nil
}

// Width is that of a text on one line, mm.
func (w Words) Width(text string) (mm float64) { return lineWidth(w.runs(text)) }

// Fitted returns the text, or its beginning with an ellipsis, no wider than a width in mm.
func (w Words) Fitted(text string, width float64) string {
	if w.Width(text) <= width {
		return text
	}
	runes := []rune(text)
	for n := len(runes) - 1; n > 0; n-- {
		if short := strings.TrimRight(string(runes[:n]), " ") + "…"; w.Width(short) <= width {
			return short
		}
	}
	return ""
}

// Block is a text that has been broken into lines.
type Block struct {
	words Words
	lines [][]run
	// Lines is how many lines it has, Height how high it is, mm.
	Lines  int
	Height float64
	width  float64
	right  bool // it is read from right to left, and begins there
}

// Set breaks a text into lines of at most a width in mm. What is read from right to left begins at the right.
func (w Words) Set(text string, width float64) Block {
	b := Block{words: w, lines: w.lines(text, width), width: width, right: lettering.Leftwards(text)}
	b.Lines = len(b.lines)
	b.Height = float64(b.Lines) * w.Lead
	return b
}

// Draw sets the block with its upper left corner at x, y.
func (b Block) Draw(p *Page, x, y float64) {
	for i, line := range b.lines {
		at := x
		if b.right {
			at += b.width - lineWidth(line)
		}
		p.sayRuns(line, at, y+float64(i)*b.words.Lead+0.98*b.words.size)
	}
}

func lineWidth(line []run) (mm float64) {
	for _, r := range line {
		mm += r.face.TextWidth(r.text)
	}
	return mm
}

// rounded is a number with three decimals: micrometres are finer than paper.
func rounded(v float64) float64 { return math.Round(v*1000) / 1000 }
