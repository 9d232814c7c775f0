package lettering_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/render"
	"slowreveal/render/lettering"
)

// luminance is the relative luminance of a display colour (WCAG 2.2, "relative luminance").
func luminance(c [3]float64) float64 {
	sum := 0.0
	for k, share := range [3]float64{0.2126, 0.7152, 0.0722} {
		v := c[k]
		if v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		sum += share * v
	}
	return sum
}

func contrast(a, b [3]float64) float64 {
	x, y := luminance(a)+0.05, luminance(b)+0.05
	return math.Max(x/y, y/x)
}

// painted is a picture of one colour, or of noise.
func painted(width, height int, at func(i int) byte) *render.Picture {
	p := render.NewPicture(width, height)
	p.Replace(func(rgb []byte) {
		for i := range rgb {
			rgb[i] = at(i)
		}
	})
	return p
}

// Every signal word stands on its colour with enough contrast (ISO 3864-4 names the pairs of colours; 4.5 : 1 is WCAG
// 2.2, 1.4.3), the symbol before the three that warn of injury, and nothing of it where there is no notice.
func TestANoticeStandsOnItsColour(t *testing.T) {
	const width, height = 960, 540
	c, err := lettering.NewCaptions(width, height, reveal.UsualCaptions)
	require.NoError(t, err)
	count := func(p *render.Picture, want [3]float64) (n int) {
		for i := 0; i < len(p.RGB); i += 3 {
			same := true
			for k := range 3 {
				same = same && math.Abs(float64(p.RGB[i+k])-255*want[k]) < 1.5
			}
			if same {
				n++
			}
		}
		return n
	}
	for signal, sign := range look.Signals {
		p := painted(width, height, func(int) byte { return 128 })
		c.Draw(
			p,
			lettering.Said{
				Title:  "Undo the screws",
				Notice: &reveal.Notice{Signal: signal, Text: "The tube may hold liquid under pressure."},
				Tools:  []string{"Hex key 2.5 mm"},
			},
			1,
		)
		assert.Greater(t, count(p, sign.Panel), 800, "%s", signal)
		least := 4.5
		if signal == reveal.Warning || signal == reveal.Caution {
			least = 7
		}
		assert.GreaterOrEqual(t, contrast(sign.Panel, sign.Letters), least, "%s", signal)
		assert.Equal(t, signal != reveal.NoticeWord, sign.Alert)
		without := painted(width, height, func(int) byte { return 128 })
		c.Draw(without, lettering.Said{Title: "Undo the screws"}, 1)
		assert.Zero(t, count(without, sign.Panel))
	}
}

// Whatever lies behind them, words can be read: behind every letter there is a contrast of 4.5 : 1 at least to its ink.
func TestWordsCanBeReadBeforeAnything(t *testing.T) {
	const width, height = 960, 540
	style := reveal.UsualCaptions
	c, err := lettering.NewCaptions(width, height, style)
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(1, 2))
	for name, at := range map[string]func(int) byte{"black": func(int) byte { return 0 }, "white": func(int) byte { return 255 }, "noise": func(int) byte { return byte(random.IntN(256)) }} {
		before := painted(width, height, at)
		p := painted(width, height, func(i int) byte { return before.RGB[i] })
		said := lettering.Said{
			Title:       "Undo the four cover screws",
			Instruction: "Loosen them crosswise with a hex key, then take them out.",
			Tools:       []string{"Hex key 2.5 mm", "Magnetic tray"},
		}
		c.Draw(p, said, 1)
		ink := [3]float64{1, 1, 1} // the lightest of the inks is the soft one: what is darkest is full ink
		for i := 0; i < len(p.RGB); i += 3 {
			v := [3]float64{float64(p.RGB[i]) / 255, float64(p.RGB[i+1]) / 255, float64(p.RGB[i+2]) / 255}
			if before.RGB[i] != p.RGB[i] && luminance(v) < luminance(ink) {
				ink = v
			}
		}
		soft := [3]float64{ink[0] + (1-ink[0])*0.22, ink[1] + (1-ink[1])*0.22, ink[2] + (1-ink[2])*0.22}
		laid := func(x, y int) bool {
			i := 3 * (y*width + x)
			return before.RGB[i] != p.RGB[i] || before.RGB[i+1] != p.RGB[i+1]
		}
		changed := 0
		for y := height * 3 / 4; y < height-1; y++ {
			for x := 1; x < width-1; x++ {
				i := 3 * (y*width + x)
				border := !laid(x-1, y) || !laid(x+1, y) || !laid(x, y-1) || !laid(x, y+1)
				v := [3]float64{float64(p.RGB[i]) / 255, float64(p.RGB[i+1]) / 255, float64(p.RGB[i+2]) / 255}
				if border || luminance(v) < 0.65 {
					continue // no plate here, or its border, or a letter
				}
				changed++
				require.GreaterOrEqual(t, contrast(v, soft), 4.5, "%s at %d, %d", name, x, y)
			}
		}
		assert.Greater(t, changed, 10_000, name)
	}
}
