package lettering

import (
	"bytes"
	"cmp"
	"embed"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"
	"golang.org/x/text/unicode/bidi"
)

//go:embed fonts/*.woff
var fontFiles embed.FS

// typeface is a family as a list of faces; each rune takes the first face that
// has it.
type typeface struct {
	faces []*font.Face
}

// Font is a font of the user's, for signs that the shipped ones lack.
type Font struct {
	face *font.Face
	// Data is the file that it was read from.
	Data []byte
}

// Shipped returns the file of a font that is part of the program, by its name.
func Shipped(name string) ([]byte, error) {
	return fontFiles.ReadFile("fonts/" + name + "-normal.woff")
}

func loadTypeface(given []*Font, files ...string) (*typeface, error) {
	t := &typeface{}
	for _, name := range files {
		data, err := fontFiles.ReadFile("fonts/" + name + ".woff")
		if err != nil {
			return nil, err
		}
		face, err := font.ParseTTF(bytes.NewReader(data))
		if err != nil {
			return nil, fmt.Errorf("reading the shipped font %s: %w", name, err)
		}
		t.faces = append(t.faces, face)
	}
	for _, f := range given {
		t.faces = append(t.faces, font.NewFace(f.face.Font)) // faces are not to be shared
	}
	return t, nil
}

// lacks returns the signs of a text that no face has, each once.
func (t *typeface) lacks(text string) (list []rune) {
	for _, r := range text {
		if unicode.IsSpace(r) || unicode.IsControl(r) || slices.Contains(list, r) {
			continue
		}
		if _, ok := fontmap(t.faces).ResolveFace(r).NominalGlyph(r); !ok {
			list = append(list, r)
		}
	}
	return list
}

// shape sets a text at size pixels, broken into lines of at most width pixels where its
// script allows it (UAX 14).
func (t *typeface) shape(text string, size, width float64) []line {
	var lines []line
	for _, paragraph := range strings.Split(text, "\n") {
		lines = append(lines, t.wrap([]rune(strings.Join(strings.Fields(paragraph), " ")), size, width)...)
	}
	return lines
}

// set sets a text as one line.
func (t *typeface) set(text string, size float64) line {
	const wide = 1 << 20 // pixels, more than any picture
	if lines := t.wrap([]rune(text), size, wide); len(lines) > 0 {
		return lines[0]
	}
	return line{}
}

// setSize is the size in pixels at which words are shaped, whatever the size at which they
// are drawn: the shaper takes whole pixels.
const setSize = 1024

// unit is a unit of the shaped runs in pixels as they are drawn.
func (l *line) unit() float64 { return l.size / setSize / 64 }

func (t *typeface) wrap(runes []rune, size, width float64) (lines []line) {
	if len(runes) == 0 {
		return nil
	}
	runes = settable(runes)
	direction := directionOf(runes)
	in := shaping.Input{Text: runes, RunEnd: len(runes), Direction: direction, Face: t.faces[0],
		Size: setSize * 64, Language: language.NewLanguage("en")}
	var segmenter shaping.Segmenter
	var shaper shaping.HarfbuzzShaper
	var runs []shaping.Output
	for _, part := range segmenter.Split(in, fontmap(t.faces)) {
		runs = append(runs, shaper.Shape(part))
	}
	var wrapper shaping.LineWrapper
	wrapped, _ := wrapper.WrapParagraphF(
		shaping.WrapConfig{Direction: direction},
		fixed.Int26_6(min(width/size*setSize*64, math.MaxInt32)),
		runes,
		shaping.NewSliceIterator(runs),
	)
	for _, w := range wrapped {
		l := line{runs: slices.Clone(w), size: size, leftwards: direction == di.DirectionRTL}
		slices.SortFunc(l.runs, func(a, b shaping.Output) int { return cmp.Compare(a.VisualIndex, b.VisualIndex) })
		for i := range l.runs {
			l.width += float64(l.runs[i].Advance) * l.unit()
		}
		lines = append(lines, l)
	}
	return lines
}

// settable has spaces in the place of signs that only separate: go-text's wrapper does not survive U+2029 in a line.
func settable(runes []rune) []rune {
	out := slices.Clone(runes)
	for i, r := range out {
		if unicode.In(r, unicode.Zl, unicode.Zp, unicode.Cc) {
			out[i] = ' '
		}
	}
	return out
}

// directionOf is the direction in which a paragraph is read: that of its first letter (UAX 9,
// P2 and P3).
func directionOf(runes []rune) di.Direction {
	for _, r := range runes {
		properties, _ := bidi.LookupRune(r)
		switch properties.Class() {
		case bidi.L:
			return di.DirectionLTR
		case bidi.R, bidi.AL:
			return di.DirectionRTL
		}
	}
	return di.DirectionLTR
}

// fontmap chooses for each rune the first face that has it.
type fontmap []*font.Face

// ResolveFace implements shaping.Fontmap.
func (m fontmap) ResolveFace(r rune) *font.Face {
	for _, f := range m {
		if _, ok := f.NominalGlyph(r); ok {
			return f
		}
	}
	return m[0]
}

// Setter breaks texts into lines and says in which order and by which of its fonts their pieces stand, for who draws
// letters otherwise than into pictures. It is for one goroutine.
type Setter struct{ faces *typeface }

// Piece is a stretch of a line in one font and one direction.
type Piece struct {
	Text string
	Font int // which of the setter's: the shipped ones by their order, then those given
}

// NewSetter returns a setter of shipped fonts, by their names, and after them those given.
func NewSetter(given []*Font, shipped ...string) (*Setter, error) {
	names := make([]string, len(shipped))
	for i, n := range shipped {
		names[i] = n + "-normal"
	}
	t, err := loadTypeface(given, names...)
	return &Setter{t}, err
}

// Lines breaks a text into lines of at most a width, in the unit of the size. The pieces of a line are in the order in
// which they stand from left to right.
func (s *Setter) Lines(text string, size, width float64) (lines [][]Piece) {
	for _, paragraph := range strings.Split(text, "\n") {
		runes := []rune(paragraph)
		for _, l := range s.faces.wrap(runes, size, width) {
			var pieces []Piece
			for i := range l.runs {
				r := &l.runs[i]
				pieces = append(pieces, Piece{
					Text: string(runes[r.Runes.Offset : r.Runes.Offset+r.Runes.Count]),
					Font: slices.Index(s.faces.faces, r.Face),
				})
			}
			lines = append(lines, pieces)
		}
	}
	return lines
}

// Leftwards reports whether a text is read from right to left.
func Leftwards(text string) bool { return directionOf([]rune(text)) == di.DirectionRTL }
