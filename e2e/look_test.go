package e2e

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"image"
	"image/png"
	"math"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/render"
)

// difference compares two pictures: the mean of |a − b| over the pixels that
// are not near an edge of either (0…255), and how far the outlines cover each
// other (intersection over union of what is not paper).
func difference(a, b, paper *render.Picture) (mean, overlap float64) {
	w, h := a.Width, a.Height
	at := func(p *render.Picture, x, y, k int) float64 { return float64(p.RGB[3*(y*w+x)+k]) }
	flat := func(p *render.Picture, x, y int) bool {
		for k := range 3 {
			lo, hi := 255.0, 0.0
			for dy := -1; dy <= 1; dy++ {
				for dx := -1; dx <= 1; dx++ {
					v := at(p, x+dx, y+dy, k)
					lo, hi = math.Min(lo, v), math.Max(hi, v)
				}
			}
			if hi-lo > 24 {
				return false
			}
		}
		return true
	}
	const drawn = 10 // of 255: what differs more from the paper can be seen, however faded
	apart := func(p, from *render.Picture, x, y int) float64 {
		d := 0.0
		for k := range 3 {
			d = math.Max(d, math.Abs(at(p, x, y, k)-at(from, x, y, k)))
		}
		return d
	}
	n, both, either := 0, 0, 0
	for y := 1; y < h-1; y++ {
		for x := 1; x < w-1; x++ {
			if flat(a, x, y) && flat(b, x, y) {
				for k := range 3 {
					mean += math.Abs(at(a, x, y, k) - at(b, x, y, k))
				}
				n += 3
			}
			in, out := apart(a, paper, x, y) > drawn, apart(b, paper, x, y) > drawn
			// What is nearly as light as the paper lies on the border of what counts: where both are alike, both have
			// it.
			if in && out || in != out && apart(a, b, x, y) <= 4 {
				both++
			}
			if in || out {
				either++
			}
		}
	}
	return mean / float64(n), float64(both) / float64(either)
}

// The stage, looking through the shot, shows what the film shows at the same
// moment: same camera, same shading, same edges.
func TestTheStageShowsTheFilm(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	_, m := pumpFile(t)
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	s.do(
		browser.Size(1280, 800),
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		browser.Press("Through the shot"),
	)
	for _, at := range []reveal.Micros{0, 4 * reveal.Second, 12 * reveal.Second, 22 * reveal.Second, 34 * reveal.Second} {
		s.do(
			seek(int(at)),
			browser.Settled(),
			chromedp.WaitVisible(chromedp.CSS(`canvas[data-occluded=true][data-drawn=true]`)),
		)
		shown := reveal.Micros(eval[float64](s, `Number(document.querySelector('[data-time]').dataset.time)`))
		assert.InDelta(t, float64(at), float64(shown), 60_000)
		data := eval[string](s, `document.querySelector('canvas').toDataURL('image/png')`)
		raw, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(data, "data:image/png;base64,"))
		require.NoError(t, err)
		img, err := png.Decode(bytes.NewReader(raw))
		require.NoError(t, err)
		stage := pictureOf(img)
		renderer, err := render.NewRenderer(scene, stage.Width, stage.Height, 0)
		require.NoError(t, err)
		view, fr := scene.NewView(), f.NewFrame()
		f.At(shown, fr)
		view.Take(scene, fr, float64(stage.Width)/float64(stage.Height))
		picture, paper := render.NewPicture(stage.Width, stage.Height), render.NewPicture(stage.Width, stage.Height)
		renderer.Draw(view, picture)
		clear(view.Opacity)
		renderer.Draw(view, paper)
		mean, overlap := difference(stage, picture, paper)
		t.Logf(
			"%5.2f s: interior mean difference %.2f of 255, outlines overlap %.4f",
			float64(shown)/1e6,
			mean,
			overlap,
		)
		assert.LessOrEqual(t, mean, 3.0)
		assert.GreaterOrEqual(t, overlap, 0.99)
		if t.Failed() {
			keep(t, fmt.Sprintf("stage-%d.png", at), stage)
			keep(t, fmt.Sprintf("film-%d.png", at), picture)
		}
	}
}

func pictureOf(img image.Image) *render.Picture {
	b := img.Bounds()
	p := render.NewPicture(b.Dx(), b.Dy())
	for y := range p.Height {
		for x := range p.Width {
			r, g, bl, _ := img.At(b.Min.X+x, b.Min.Y+y).RGBA()
			copy(p.RGB[3*(y*p.Width+x):], []byte{byte(r >> 8), byte(g >> 8), byte(bl >> 8)})
		}
	}
	return p
}

func keep(t *testing.T, name string, p *render.Picture) {
	img := image.NewNRGBA(image.Rect(0, 0, p.Width, p.Height))
	for i := range p.Width * p.Height {
		copy(img.Pix[4*i:], append(append([]byte(nil), p.RGB[3*i:3*i+3]...), 255))
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	path := os.TempDir() + "/slowreveal-" + name
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o644))
	t.Log("see", path)
}

// The running reference is Chromium's own easing (W3C CSS Easing Functions 1).
func TestEasingIsThatOfTheBrowser(t *testing.T) {
	s := newStand(t)
	s.do(chromedp.Navigate(s.url))
	for _, c := range []struct {
		easing reveal.Easing
		css    string
	}{
		{reveal.Linear, "linear"}, {reveal.Smooth, "ease-in-out"}, {reveal.In, "ease-in"}, {reveal.Out, "ease-out"},
		{reveal.Easing{Bezier: [4]float64{.25, .1, .25, 1}}, "ease"}, {reveal.Easing{Bezier: [4]float64{.9, -.5, .1, 1.5}}, "cubic-bezier(.9,-.5,.1,1.5)"},
		{reveal.Easing{Bezier: [4]float64{1, 0, 0, 1}}, "cubic-bezier(1,0,0,1)"},
	} {
		got := eval[[]float64](s, fmt.Sprintf(`(() => {
			const a = document.body.animate([{opacity: 0}, {opacity: 1}], {duration: 1000, easing: %q, fill: 'both'})
			a.pause()
			const out = []
			for (let i = 0; i <= 100; i++) { a.currentTime = i * 10; out.push(a.effect.getComputedTiming().progress) }
			a.cancel()
			return out
		})()`, c.css))
		require.Len(t, got, 101)
		for i, want := range got {
			assert.InDelta(t, want, film.Ease(c.easing, float64(i)/100), 2e-5, "%s at %d %%", c.css, i)
		}
	}
}

// Faded parts, whose edges lie over each other and are seen end on, look as in the film from straight views too
// (looks).
func TestFadedPartsLookTheSameFromStraightViews(t *testing.T) {
	atLength(t)
	s := newStand(t)
	model := assemblyOf(t, "flat")
	p, err := s.authoring.CreateProject(context.Background(), "Faded", "faded.glb", model)
	require.NoError(t, err)
	doc := begun(model)
	for _, n := range model.Assembly.Nodes {
		if n.IsPart() {
			doc.Opening.Opacities = append(doc.Opening.Opacities, reveal.NodeOpacity{Node: n.ID, Opacity: 0.15})
		}
	}
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, doc)
	require.NoError(t, err)
	s.do(chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+r.ID), browser.StageReady())
	s.do(browser.Press("Front"), browser.Settled())
	s.do(chromedp.KeyEvent("v"), browser.Settled())
	s.do(browser.Press("Top"), browser.Settled())
}
