package lettering_test

import (
	"bytes"
	"image"
	"image/png"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/render"
	"slowreveal/render/lettering"
)

const w, h = 320, 180

func TestANoteIsSetWhereTheFrameHasIt(t *testing.T) {
	c, err := lettering.NewCaptions(w, h, reveal.UsualCaptions)
	require.NoError(t, err)
	blank, p := render.NewPicture(w, h), render.NewPicture(w, h)
	note := film.Note{
		Lines:   []string{"Sun gear", "12 teeth"},
		AnchorX: 0.2,
		AnchorY: 0.8,
		X:       0.6,
		Y:       0.2,
		Width:   0.2,
		Height:  0.1,
		Opacity: 1,
	}
	c.Notes(p, []film.Note{note})
	assert.Greater(t, differ(blank, p), 300)
	at := func(p *render.Picture, x, y float64) byte { return p.RGB[3*(int(y*float64(h))*w+int(x*float64(w)))] }
	inside := func(x, y float64) byte { return at(p, x, y) }
	assert.Greater(t, inside(0.79, 0.29), byte(200), "its paper")
	assert.NotZero(t, inside(0.2, 0.8), "its point")
	assert.Zero(t, inside(0.1, 0.1), "nothing elsewhere")
	faint := render.NewPicture(w, h)
	note.Opacity = 0.5
	c.Notes(faint, []film.Note{note})
	assert.Less(t, at(faint, 0.79, 0.29), inside(0.79, 0.29))
	off := render.NewPicture(w, h)
	note.X, note.AnchorX = -5, -7
	c.Notes(off, []film.Note{note}) // far outside: no harm done
	assert.Zero(t, differ(blank, off))
}

func TestCaptionsStandWhereTheirStyleSays(t *testing.T) {
	set := func(style reveal.Captions) [4]int {
		c, err := lettering.NewCaptions(w, h, style)
		require.NoError(t, err)
		p := render.NewPicture(w, h)
		c.Draw(p, lettering.Said{Title: "Open the door", Instruction: "Pull the knob."}, 1)
		return quarters(p)
	}
	style := reveal.UsualCaptions
	lower := set(style)
	assert.Greater(t, lower[2], 150)
	assert.Zero(t, lower[0]+lower[1]+lower[3])
	style.Show = reveal.TitleOnly
	title := set(style)
	assert.Less(t, title[2], lower[2])
	assert.NotZero(t, title[2])
	style.Place = reveal.UpperLeft
	assert.NotZero(t, set(style)[0])
	assert.Zero(t, set(style)[2])
	style.Place = reveal.LowerMiddle
	middle := set(style)
	assert.InDelta(t, middle[2], middle[3], float64(middle[2])/3)
	style.Size = 2
	assert.Greater(t, set(style)[2], 2*middle[2])
	style.Backing = true
	assert.Greater(t, set(style)[2], 3*middle[2])
	style.Show = reveal.NoWords
	assert.Zero(t, set(style))
}

func TestACardLiesOverThePicture(t *testing.T) {
	c, err := lettering.NewCaptions(w, h, reveal.UsualCaptions)
	require.NoError(t, err)
	card := func(card film.Card) *render.Picture {
		p := render.NewPicture(w, h)
		c.Card(p, card)
		return p
	}
	full := card(film.Card{Title: "DP-40", Text: "Service of the pump head", Opacity: 1})
	blank := render.NewPicture(w, h)
	assert.Equal(t, w*h, differ(blank, full))
	half := card(film.Card{Title: "DP-40", Opacity: 0.5})
	assert.InDelta(t, full.RGB[0]/2, half.RGB[0], 2)
	clear := card(film.Card{Title: "DP-40", Clear: true, Opacity: 1})
	assert.Less(t, differ(blank, clear), w*h/8)
	assert.NotZero(t, differ(blank, clear))
}

// The boxes of notes are as wide as their words, in every script and shape: what stands in them is not outside.
func TestNotesStayInTheirBoxes(t *testing.T) {
	a := demo.Pump().Assembly
	for _, text := range []string{"Sun gear, 12 teeth", "WWW MMM @@@ WWWWWWWWWWW", "Crosswise, half a turn each to begin with", "Ölablaßschraube M8 × 1,25 – nicht lösen!",
		"Винты крышки снять крест-накрест", "Βίδες καλύμματος", "illicit fill till", "Donaudampfschifffahrtsgesellschaftskapitän"} {
		for _, size := range [][2]int{{640, 360}, {360, 360}, {360, 640}} {
			r := demo.Teardown(a)
			r.Steps = []reveal.Step{
				{
					ID:       "s",
					Duration: 4 * reveal.Second,
					Cues: []reveal.Cue{
						{
							ID:       "n",
							Kind:     reveal.KindNote,
							Targets:  []assembly.NodeID{"housing/display"},
							Duration: 4 * reveal.Second,
							Easing:   reveal.Linear,
							Note:     &reveal.Note{Text: text},
						},
					},
				},
			}
			f := film.Compile(a, r).Shaped(float64(size[0])/float64(size[1]), false)
			fr := f.NewFrame()
			f.At(2*reveal.Second, fr)
			require.Len(t, fr.Notes, 1)
			c, err := lettering.NewCaptions(size[0], size[1], reveal.UsualCaptions)
			require.NoError(t, err)
			p := render.NewPicture(size[0], size[1])
			p.Replace(func(rgb []byte) {
				for i := range rgb {
					rgb[i] = 255
				}
			})
			n := fr.Notes[0]
			n.AnchorX, n.AnchorY = n.X+n.Width/2, n.Y+n.Height/2 // no leader
			c.Notes(p, []film.Note{n})
			unit := float64(min(size[1], size[0]))
			left, right := int(n.X*float64(size[0])-0.013*unit)-2, int((n.X+n.Width)*float64(size[0])+0.013*unit)+2
			top, foot := int(n.Y*float64(size[1])), int((n.Y+n.Height)*float64(size[1]))
			ink := 0
			for y := top; y < foot; y++ {
				for x := range size[0] {
					dark := p.RGB[3*(y*size[0]+x)] < 128
					if dark && x > left+3 && x < right-3 {
						ink++
					}
					if dark && (x < left || x > right) {
						t.Fatalf("%q in %v has ink at %d, outside of %d to %d", text, size, x, left, right)
					}
				}
			}
			assert.Greater(t, ink, 15, "%q", text)
		}
	}
}

// Words leave a logo alone wherever it stands, and stay in the picture.
func TestWordsMakeRoomForALogo(t *testing.T) {
	const w, h = 640, 360
	img := image.NewNRGBA(image.Rect(0, 0, 90, 30))
	for i := range img.Pix {
		img.Pix[i] = 255
		if i%4 == 1 || i%4 == 2 {
			img.Pix[i] = 0
		}
	}
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, img))
	said := lettering.Said{
		Title:       "Undo the four cover screws",
		Instruction: strings.Repeat("Loosen them crosswise. ", 8),
		Notice:      &reveal.Notice{Signal: reveal.Caution, Text: "It may hold liquid."},
		Tools:       []string{"Hex key"},
	}
	for _, corner := range []lettering.Corner{lettering.UpperLeft, lettering.UpperRight, lettering.LowerLeft, lettering.LowerRight} {
		logo, err := lettering.ReadLogo(bytes.NewReader(file.Bytes()), corner)
		require.NoError(t, err)
		for _, place := range []reveal.Place{reveal.LowerLeft, reveal.UpperLeft, reveal.LowerMiddle} {
			words, err := lettering.NewCaptions(
				w,
				h,
				reveal.Captions{Show: reveal.AllWords, Place: place, Size: 1, Backing: true},
			)
			require.NoError(t, err)
			words.Beside(logo)
			alone, both := painted(w, h, func(int) byte { return 128 }), painted(w, h, func(int) byte { return 128 })
			logo.Draw(alone)
			logo.Draw(both)
			words.Draw(both, said, 1)
			reds, changed := 0, 0
			for i := 0; i < len(both.RGB); i += 3 {
				if alone.RGB[i] == 255 && alone.RGB[i+1] == 0 {
					reds++
					require.Equal(t, alone.RGB[i:i+3], both.RGB[i:i+3], "%s, words at %s", corner, place)
				} else if both.RGB[i] != alone.RGB[i] {
					changed++
				}
			}
			assert.Greater(t, reds, 500)
			assert.Greater(t, changed, 5000, "the words are there")
		}
	}
}

func TestCaptionsStayInTheSafeArea(t *testing.T) {
	const w, h = 640, 360
	c, err := lettering.NewCaptions(w, h, reveal.UsualCaptions)
	require.NoError(t, err)
	p := render.NewPicture(w, h)
	for i := range p.RGB {
		p.RGB[i] = 255
	}
	c.Draw(
		p,
		lettering.Said{
			Title:       "Undo the four screws – Schrauben lösen, Винты, Βίδες",
			Instruction: "Loosen them crosswise. The tube may hold liquid under pressure, so close the inlet first and keep the tray below the head while you work.",
		},
		1,
	)
	ink, left, right, top, bottom := 0, w, 0, h, 0
	for y := range h {
		for x := range w {
			if p.RGB[3*(y*w+x)] < 200 {
				ink++
				left, right, top, bottom = min(left, x), max(right, x), min(top, y), max(bottom, y)
			}
		}
	}
	assert.Greater(t, ink, 1500)
	assert.InDelta(t, 0.05*w, float64(left), 3)
	assert.Less(t, float64(right), 0.7*w)
	assert.Greater(t, float64(top), 0.6*h)
	assert.LessOrEqual(t, float64(bottom), math.Ceil(0.96*h))
}

func differ(a, b *render.Picture) (n int) {
	for i := 0; i < len(a.RGB); i += 3 {
		if a.RGB[i] != b.RGB[i] || a.RGB[i+1] != b.RGB[i+1] || a.RGB[i+2] != b.RGB[i+2] {
			n++
		}
	}
	return n
}

// words counts the pixels in each quarter of a picture that hold ink: upper left,
// upper right, lower left, lower right.
func quarters(p *render.Picture) (n [4]int) {
	for y := range p.Height {
		for x := range p.Width {
			if i := 3 * (y*p.Width + x); p.RGB[i]|p.RGB[i+1]|p.RGB[i+2] != 0 {
				n[2*(2*y/p.Height)+2*x/p.Width]++
			}
		}
	}
	return n
}

// What is measured is the contrast ratio of WCAG 2.2: a grey on which black letters have a known one (its formula is
// reckoned anew in notice_test.go), and on a plate that of the plate, whatever lies behind.
func TestContrastIsThatOfTheLettersOnWhatIsBehindThem(t *testing.T) {
	const width, height = 960, 540
	bare := reveal.Captions{Show: reveal.TitleOnly, Place: reveal.LowerLeft, Size: 1}
	c, err := lettering.NewCaptions(width, height, bare)
	require.NoError(t, err)
	said := lettering.Said{Title: "Undo the four screws"}
	ink := [3]float64(look.Default.Ink)
	for _, grey := range []byte{0, 60, 119, 200, 255} {
		v := float64(grey) / 255
		want := contrast(ink, [3]float64{v, v, v})
		got := c.Contrast(painted(width, height, func(int) byte { return grey }), said, nil)
		assert.InDelta(t, want, got, 0.02*want, "grey %d", grey)
	}
	// #777 on white has 4.48 : 1 (WCAG's technique G18, from memory): the formula in the test is that one.
	assert.InDelta(t, 4.48, contrast([3]float64{119. / 255, 119. / 255, 119. / 255}, [3]float64{1, 1, 1}), 0.005)
	bare.Backing = true
	plated, err := lettering.NewCaptions(width, height, bare)
	require.NoError(t, err)
	assert.Greater(t, plated.Contrast(painted(width, height, func(int) byte { return 0 }), said, nil), 4.5)
	assert.Zero(t, c.Contrast(painted(width, height, func(int) byte { return 0 }), lettering.Said{}, nil), "no letters")
	box := plated.Places(said)[0]
	assert.Less(t, box.Left, 0.06)
	assert.Greater(t, box.Right, 0.2)
	assert.InDelta(t, 0.95, box.Bottom, 0.03)
	solid := film.Card{Title: "Teardown", Opacity: 1}
	assert.Greater(t, c.Contrast(painted(width, height, func(int) byte { return 0 }), said, []film.Card{solid}), 1.0)
}
