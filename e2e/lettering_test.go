package e2e

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
	"slowreveal/render"
	"slowreveal/render/lettering"
)

const letterWidth, letterHeight = 1600, 900

// inkOf is how much ink there is in each column of a set line.
func inkOf(t *testing.T, text string, given ...*lettering.Font) []float64 {
	t.Helper()
	style := reveal.UsualCaptions
	style.Backing = false // ink alone is measured
	c, err := lettering.NewCaptions(letterWidth, letterHeight, style, given...)
	require.NoError(t, err)
	assert.Empty(t, c.Lacks(text), "every sign has a font")
	p := render.NewPicture(letterWidth, letterHeight)
	p.Replace(func(rgb []byte) {
		for i := range rgb {
			rgb[i] = 255
		}
	})
	c.Draw(p, lettering.Said{Instruction: text}, 1)
	ink := make([]float64, letterWidth)
	for i := range letterWidth * letterHeight {
		ink[i%letterWidth] += 255 - float64(p.RGB[3*i])
	}
	return trimmed(ink)
}

// trimmed cuts columns without ink off and scales the rest to a sum of 1.
func trimmed(ink []float64) []float64 {
	sum := 0.0
	for len(ink) > 0 && ink[0] == 0 {
		ink = ink[1:]
	}
	for len(ink) > 0 && ink[len(ink)-1] == 0 {
		ink = ink[:len(ink)-1]
	}
	for _, v := range ink {
		sum += v
	}
	for i := range ink {
		ink[i] /= sum
	}
	return ink
}

// Lines in several scripts, kerned, joined and in the order in which they are read: the
// reference is Chromium, setting the same words in the same fonts.
func TestWordsAreSetAsTheBrowserSetsThem(t *testing.T) {
	ctx, closeBrowser := browser.New(context.Background(), 1280, 800)
	t.Cleanup(closeBrowser)
	require.NoError(t, chromedp.Do(ctx))
	shipped := filepath.Join("..", "render", "lettering", "fonts")
	extra := filepath.Join("..", "web", "node_modules", "@fontsource")
	arabic := filepath.Join(extra, "noto-sans-arabic", "files", "noto-sans-arabic-arabic-400-normal.woff")
	japanese := filepath.Join(extra, "sawarabi-gothic", "files", "sawarabi-gothic-japanese-400-normal.woff")
	files := []string{}
	for _, name := range []string{"latin", "latin-ext", "greek", "cyrillic"} {
		files = append(files, filepath.Join(shipped, "literata-"+name+"-400-normal.woff"))
	}
	size := look.Words.Text * letterHeight
	for name, c := range map[string]struct {
		text, font string
	}{
		"kerning":   {"AVATAR: Take off the Tube, To V. Ya", ""},
		"ligatures": {"Fit the flow flange; file off first", ""},
		"marks":     {"Łódź, Škoda, Ångström, naïve", ""},
		"Greek":     {"Αφαιρέστε το κάλυμμα", ""},
		"Cyrillic":  {"Снимите крышку насоса", ""},
		"Arabic":    {"افتح الباب ثم ارفع الغطاء", arabic},
		"mixed":     {"ارفع الغطاء DP-40 ثم الباب", arabic},
		"Japanese":  {"ポンプの蓋を外す", japanese},
	} {
		t.Run(name, func(t *testing.T) {
			list := files
			var given []*lettering.Font
			if c.font != "" {
				data, err := os.ReadFile(c.font)
				require.NoError(t, err)
				f, err := lettering.ReadFont(data)
				require.NoError(t, err)
				// spaces are of the font of the words
				given, list = append(given, f), append([]string{c.font}, files...)
			}
			got, want := inkOf(t, c.text, given...), byBrowser(t, ctx, c.text, size, list)
			assert.InDelta(t, len(want), len(got), 2, "width in pixels")
			limit := 0.06
			// the spaces beside DP-40 are of another font there; another order of words differs by 0.4
			if name == "mixed" {
				limit = 0.13
			}
			assert.Less(t, apart(got, want), limit, "share of the ink that lies elsewhere")
		})
	}
}

// fine is by how much larger the browser sets words: it takes whole pixels for the width of
// letters.
const fine = 16

// byBrowser sets a line in Chromium and returns its ink by columns.
func byBrowser(t *testing.T, ctx context.Context, text string, size float64, files []string) []float64 {
	t.Helper()
	var load strings.Builder
	families := []string{}
	for i, file := range files {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		family := fmt.Sprintf("f%d%s", i, strings.NewReplacer("-", "", ".", "").Replace(filepath.Base(file)))
		families = append(families, family)
		fmt.Fprintf(
			&load,
			"{ const f = new FontFace(%q, Uint8Array.from(atob(%q), (c) => c.charCodeAt(0))); document.fonts.add(await f.load()) }\n",
			family,
			base64.StdEncoding.EncodeToString(data),
		)
	}
	words, err := json.Marshal(text)
	require.NoError(t, err)
	within, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	ink, err := chromedp.Run(within, chromedp.Evaluate[[]float64](fmt.Sprintf(`(async () => {
		%s
		const wide = %d, fine = %d, c = new OffscreenCanvas(wide * fine, 60 * fine).getContext('2d')
		c.fillStyle = '#fff'; c.fillRect(0, 0, wide * fine, 60 * fine)
		c.fillStyle = '#000'; c.font = '%fpx %s'
		const words = %s
		c.direction = /^[\u0590-\u08ff]/.test(words) ? 'rtl' : 'ltr'
		c.textAlign = 'left'
		c.fillText(words, 40 * fine, 40 * fine)
		const d = c.getImageData(0, 0, wide * fine, 60 * fine).data, out = new Array(wide).fill(0)
		for (let i = 0; i < d.length / 4; i++) out[Math.floor((i %% (wide * fine)) / fine)] += 255 - d[4 * i]
		return out
	})()`, load.String(), letterWidth/2, fine, size*fine, strings.Join(families, ","), words), chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	return trimmed(ink)
}

// apart returns how much of two profiles does not lie over each other, at their best fit
// within two pixels; both are blurred by a pixel, as they begin between pixels.
func apart(a, b []float64) float64 {
	at := func(p []float64, i int) float64 {
		sum := 0.0
		for k := i - 1; k <= i+1; k++ {
			if k >= 0 && k < len(p) {
				sum += p[k] / 3
			}
		}
		return sum
	}
	least := math.Inf(1)
	for shift := -2; shift <= 2; shift++ {
		sum := 0.0
		for i := -4; i < max(len(a), len(b))+4; i++ {
			sum += math.Abs(at(a, i)-at(b, i+shift)) / 2
		}
		least = min(least, sum)
	}
	return least
}
