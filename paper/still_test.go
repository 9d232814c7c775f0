package paper_test

import (
	"context"
	"flag"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/demo"
	"slowreveal/paper"
	"slowreveal/render"
)

// edgesOf renders a moment so that its lines alone are dark: white surfaces without light's help, on white.
func edgesOf(t *testing.T, s *paper.Subject, fr *film.Frame, width, height int) *image.NRGBA {
	t.Helper()
	scene, err := s.Scene()
	require.NoError(t, err)
	r, err := render.NewRenderer(scene, width, height, 0)
	require.NoError(t, err)
	white := space.Vec3{1, 1, 1}
	r.SetBackdrop(white, white)
	view := scene.NewView()
	view.Take(scene, fr, float64(width)/float64(height))
	view.WithoutShadow()
	view.Unoccluded = true
	view.Transparent = make([]space.Vec3, len(view.Opacity))
	for i := range view.Surface {
		view.Surface[i].Flat = 1
		view.Transparent[i] = white
	}
	view.Flow = nil
	picture := render.NewPicture(width, height)
	r.Draw(view, picture)
	return picture.Image()
}

// missed is where pictures go of what does not agree, in red.
var missed = flag.String("missed", "", "write pictures of samples that lie on no line of the film")

// Lines that are removed and drawn by geometry lie where the renderer's visibility buffer has drawn its own: two ways
// to the same drawing that share nothing but the mesh.
func TestLinesLieOnThoseOfTheFilm(t *testing.T) {
	m := demo.Pump()
	s := paper.NewSubject(m, film.Compile(m.Assembly, demo.Teardown(m.Assembly)))
	const width, height = 1920, 1080
	for _, at := range []float64{0, 12.5, 18} {
		fr := s.At(reveal.Micros(at * 1e6))
		for i := range fr.Opacity { // what is half there has other rules in both
			if fr.Opacity[i] < 1 {
				fr.Opacity[i] = 0
			}
		}
		img := edgesOf(t, s, fr, width, height)
		v, err := s.View(context.Background(), fr, fr.Camera, paper.ViewSettings{Aspect: float64(width) / height})
		require.NoError(t, err)
		place := paper.FrameIn(paper.Box{Width: width, Height: height}, fr.Camera, float64(width)/height)
		asked, found := 0, 0
		for i := range v.Lines {
			l := &v.Lines[i]
			if l.Clear || l.Kind == linedrawing.Intersection { // films have no lines where parts go into one another
				continue
			}
			for k := 1; k < len(l.Points); k++ {
				x0, y0 := place(l.Points[k-1])
				x1, y1 := place(l.Points[k])
				n := max(1, int(math.Hypot(x1-x0, y1-y0))) // a sample a pixel
				for i := range n {
					u := (float64(i) + 0.5) / float64(n)
					asked++
					if dark(img, int(x0+u*(x1-x0)), int(y0+u*(y1-y0))) {
						found++
					} else if *missed != "" {
						img.SetNRGBA(int(x0+u*(x1-x0)), int(y0+u*(y1-y0)), color.NRGBA{255, 0, 0, 255})
					}
				}
			}
		}
		share := float64(found) / float64(asked)
		t.Logf("%.1f s: %d samples, %.2f %% on a line of the film", at, asked, 100*share)
		if *missed != "" {
			f, err := os.Create(fmt.Sprintf("%s-%g.png", *missed, at))
			require.NoError(t, err)
			require.NoError(t, png.Encode(f, img))
			require.NoError(t, f.Close())
		}
		assert.Greater(t, share, 0.995, "at %g s", at)
	}
}

// dark reports whether a pixel or one beside it is of a line.
func dark(img *image.NRGBA, x, y int) bool {
	for dy := -1; dy <= 1; dy++ {
		for dx := -1; dx <= 1; dx++ {
			if p := (image.Point{X: x + dx, Y: y + dy}); p.In(img.Rect) {
				if c := img.NRGBAAt(p.X, p.Y); c.R < 235 {
					return true
				}
			}
		}
	}
	return false
}

// Areas of few tones look like the shaded picture from afar, and are vectors: the other side of the comparison is the
// picture of the renderer under the same lines.
func TestFlatAreasLookLikeTheShadedPicture(t *testing.T) {
	m := demo.Pump()
	s := paper.NewSubject(m, film.Compile(m.Assembly, demo.Teardown(m.Assembly)))
	fonts, err := paper.NewFonts()
	require.NoError(t, err)
	of := func(filling paper.Filling, at reveal.Micros) (*image.RGBA, string) {
		set := paper.StillSettings{Filling: filling, NoNotes: true}
		require.NoError(t, set.Fill())
		page, err := s.Still(context.Background(), fonts, at, nil, 16.0/9, set, nil)
		require.NoError(t, err)
		svg, err := page.SVG()
		require.NoError(t, err)
		img := page.Picture(680)
		out := image.NewRGBA(img.Bounds())
		draw.Draw(out, out.Rect, img, img.Bounds().Min, draw.Src)
		return out, string(svg)
	}
	for _, at := range []reveal.Micros{0, 33 * reveal.Second} {
		bare, _ := of(paper.NoFilling, at)
		shaded, _ := of(paper.Shaded, at)
		flat, svg := of(paper.Flat, at)
		assert.NotContains(t, svg, "<image")
		assert.Less(t, len(svg), 400_000)
		away, filled, wrong := 0, 0, 0
		for i := 0; i < len(flat.Pix); i += 4 {
			d := func(a, b *image.RGBA) (most int) {
				for k := range 3 {
					most = max(most, int(a.Pix[i+k])-int(b.Pix[i+k]), int(b.Pix[i+k])-int(a.Pix[i+k]))
				}
				return most
			}
			if d(bare, flat) <= 8 {
				continue // lines, paper, and what is seen through
			}
			filled++
			if n := d(shaded, flat); n > 60 {
				wrong++
			} else {
				away += n
			}
		}
		all := len(flat.Pix) / 4
		t.Logf("%v: %d bytes, %.1f %% filled, %.2f of 255 away, %.2f %% far away", at, len(svg),
			100*float64(filled)/float64(all), float64(away)/float64(filled), 100*float64(wrong)/float64(filled))
		assert.Greater(t, filled, all/10)
		assert.Less(t, float64(away)/float64(filled), 9.0)
		assert.Less(t, wrong, filled/50)
	}
}

// Around a line drawing stand references to what is seen in it, each once, with the numbers of the parts list; the
// drawing itself stays as it is, within a border.
func TestItemReferencesStandAroundALineDrawing(t *testing.T) {
	m := demo.Pump()
	s := paper.NewSubject(m, film.Compile(m.Assembly, demo.Teardown(m.Assembly)))
	fonts, err := paper.NewFonts()
	require.NoError(t, err)
	items := item.List(m.Assembly, survey.Shapes(m.Assembly, m.Shapes), nil, item.Settings{})
	set := paper.StillSettings{References: true, NoNotes: true}
	require.NoError(t, set.Fill())
	page, err := s.Still(context.Background(), fonts, 33*reveal.Second, nil, 16.0/9, set, items)
	require.NoError(t, err)
	assert.InDelta(t, 170, page.Width, 1e-9)
	assert.Greater(t, page.Height, 170*9/16.0, "there is a border above and below as wide as at the sides")
	data, err := paper.PDF([]*paper.Page{page}, paper.About{Title: "Lines", Language: "en"})
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "lines.pdf")
	require.NoError(t, os.WriteFile(path, data, 0o644))
	text, err := exec.Command("pdftotext", path, "-").Output()
	require.NoError(t, err)
	names, seen := map[string]string{}, map[string]bool{}
	for i := range items {
		names[fmt.Sprint(items[i].Number)] = items[i].Name
	}
	for _, number := range strings.Fields(string(text)) {
		assert.NotEmpty(t, names[number], "%s is a number of the list", number)
		assert.False(t, seen[names[number]], "%s stands there once", names[number])
		seen[names[number]] = true
	}
	for _, name := range []string{"Sun gear, 12 teeth", "Ring gear, 48 teeth", "Motor"} {
		assert.True(t, seen[name], "%s is seen and referred to: %v", name, seen)
	}
	assert.False(t, seen["Dosing knob"], "what is not seen is not referred to")
}
