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
	given    []*canvas.FontFamily
}

// NewFonts returns the shipped fonts, and after them those given, for signs that they lack.
func NewFonts(given ...*lettering.Font) (*Fonts, error) {
	f := &Fonts{families: map[Style][]*canvas.FontFamily{}}
	for i, g := range given {
		family := canvas.NewFontFamily(fmt.Sprintf("given-%d", i+1))
		if err := family.LoadFont(g.Data, 0, canvas.FontRegular); err != nil {
			return nil, fmt.Errorf("this font cannot be put into a document: %w", err)
		}
		family.SetFeatures(plain)
		f.given = append(f.given, family)
	}
	return f, nil
}

// plain leaves out ligatures that are a matter of taste: their glyphs stand for no letters of their own, so that who
// searches a document would not find “flange”.
const plain = "-liga,-clig"

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
		family.SetFeatures(plain)
		list = append(list, family)
	}
	f.families[style] = append(list, f.given...)
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

// run is a stretch of text that one font has.
type run struct {
	face *canvas.FontFace
	text string
}

// runs divides a text into stretches, each in the first font that has its signs.
func (w Words) runs(text string) (list []run) {
	families := w.fonts.of(w.style)
	at := -1
	var text0 strings.Builder
	flush := func() {
		if text0.Len() > 0 {
			list = append(list, run{w.face(families[at]), text0.String()})
			text0.Reset()
		}
	}
	for _, r := range text {
		k := max(at, 0)
		if r != ' ' || at < 0 {
			for k = 0; k < len(families); k++ {
				if w.face(families[k]).Font.GlyphIndex(r) != 0 {
					break
				}
			}
			if k == len(families) {
				k = 0
			}
		}
		if k != at {
			flush()
			at = k
		}
		text0.WriteRune(r)
	}
	flush()
	return list
}

// Width is that of a text on one line, mm.
func (w Words) Width(text string) (mm float64) {
	for _, r := range w.runs(text) {
		mm += r.face.TextWidth(r.text)
	}
	return mm
}

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
	text  *canvas.Text
	words Words
	// Lines is how many lines it has, Height how high it is, mm.
	Lines  int
	Height float64
	Text   string
	width  float64
}

// Set breaks a text into lines of at most a width in mm.
func (w Words) Set(text string, width float64) Block {
	return w.Aligned(text, width, canvas.Left)
}

// Aligned is Set with lines to the left, in the middle or to the right. What is read from right to left begins at the
// right.
func (w Words) Aligned(text string, width float64, align canvas.TextAlign) Block {
	families := w.fonts.of(w.style)
	rich := canvas.NewRichText(w.face(families[0]))
	for _, r := range w.runs(text) {
		rich.WriteFace(r.face, r.text)
	}
	if align == canvas.Left && leftwards(text) {
		align = canvas.Right
	}
	natural := w.face(families[0]).LineHeight()
	set := rich.ToText(width, 0, align, canvas.Top, &canvas.TextOptions{LineStretch: w.Lead/natural - 1})
	b := Block{text: set, words: w, Text: text, width: width}
	if text != "" {
		b.Lines = max(1, set.Lines())
	}
	b.Height = float64(b.Lines) * w.Lead
	return b
}

// Draw sets the block with its upper left corner at x, y.
func (b Block) Draw(p *Page, x, y float64) {
	if b.Lines == 0 {
		return
	}
	p.canvas.RenderText(b.text, canvas.Identity.Translate(x, p.Height-y))
}

// rounded is a number with three decimals: micrometres are finer than paper.
func rounded(v float64) float64 { return math.Round(v*1000) / 1000 }
