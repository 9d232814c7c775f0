package release_test

import (
	"image"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/release"
	"slowreveal/sequence"
)

// over lays pictures over one another, the first lowest, and returns display values, 0 … 1 (Porter and Duff 1984,
// “Compositing Digital Images”: over, colours not multiplied by alpha).
func over(x, y int, list ...image.Image) (sum [3]float64) {
	for _, p := range list {
		c, alpha := [3]float64{}, 0.0
		switch p := p.(type) {
		case *image.NRGBA64:
			v := p.NRGBA64At(x, y)
			c, alpha = [3]float64{float64(v.R) / 65535, float64(v.G) / 65535, float64(v.B) / 65535}, float64(v.A)/65535
		case *image.NRGBA:
			v := p.NRGBAAt(x, y)
			c, alpha = [3]float64{float64(v.R) / 255, float64(v.G) / 255, float64(v.B) / 255}, float64(v.A)/255
		default: // without alpha
			r, g, b, _ := p.At(x, y).RGBA()
			c, alpha = [3]float64{float64(r) / 65535, float64(g) / 65535, float64(b) / 65535}, 1
		}
		for k := range c {
			sum[k] = alpha*c[k] + (1-alpha)*sum[k]
		}
	}
	return sum
}

// Background, shadow, faces, edges and words, laid over one another, are the picture within 1/255 at every pixel:
// before the first step, with parts that can be seen through, notes, notices and words; on paper and on dark; with 16
// bits far more exactly.
func TestLayersAddUpToThePicture(t *testing.T) {
	kinds := []sequence.LayerKind{
		sequence.BackgroundLayer,
		sequence.Shadow,
		sequence.Faces,
		sequence.Edges,
		sequence.Words,
	}
	at := []reveal.Micros{0, 7_500_000, 12_500_000, 30 * reveal.Second, 34 * reveal.Second, 50 * reveal.Second}
	if testing.Short() {
		at = []reveal.Micros{12_500_000, 34 * reveal.Second, 50 * reveal.Second}
	}
	for _, c := range []struct {
		background string
		deep       bool
		most       float64 // of 255
	}{{"", false, 1.0001}, {"#23282c", false, 1.0001}, {"", true, 0.75}} {
		s := release.Settings{
			Kind:        release.Stills,
			Width:       480,
			Height:      270,
			At:          at,
			Captions:    true,
			Background:  c.background,
			SixteenBits: c.deep,
			Layers:      []sequence.Layer{{Kind: sequence.Shaded}},
		}
		for _, k := range kinds {
			s.Layers = append(s.Layers, sequence.Layer{Kind: k})
		}
		list := layersOf(t, s)
		require.Len(t, list, 6*len(at))
		for n := range at {
			number := []string{"_00001.png", "_00002.png", "_00003.png", "_00004.png", "_00005.png", "_00006.png"}[n]
			picture := list["shaded/shaded"+number]
			var stack []image.Image
			for _, k := range kinds {
				stack = append(stack, list[string(k)+"/"+string(k)+number])
			}
			worst, used := 0.0, [5]int{}
			for y := range 270 {
				for x := range 480 {
					sum, want := over(x, y, stack...), over(x, y, picture)
					for k := range sum {
						worst = math.Max(worst, math.Abs(sum[k]-want[k])*255)
					}
					for k := range stack {
						if _, _, _, a := stack[k].At(x, y).RGBA(); a > 0 {
							used[k]++
						}
					}
				}
			}
			t.Logf("%s %s: at most %.3f of 255; pixels in each layer: %v", c.background, number, worst, used)
			assert.LessOrEqual(t, worst, c.most, "%q, %d", c.background, n)
			assert.Equal(t, 480*270, used[0])
			for k := 1; k < 4; k++ {
				assert.Greater(t, used[k], 500, "there is something in %s", kinds[k])
			}
		}
	}
}

// Mattes of all finishes cover what the matte of everything covers, and each the surfaces of its own finish.
func TestMattesOfFinishes(t *testing.T) {
	m, _ := pump()
	mattes := sequence.MattesOf(m.Assembly, false)
	require.Greater(t, len(mattes), 5)
	assert.Len(t, sequence.MattesOf(m.Assembly, true), m.Assembly.Parts())
	layers := append(mattes, sequence.Layer{Kind: sequence.Matte, Name: "All", Nodes: []assembly.NodeID{assembly.Root}})
	list := layersOf(
		t,
		release.Settings{
			Kind:   release.Stills,
			Width:  320,
			Height: 180,
			At:     []reveal.Micros{12 * reveal.Second},
			Layers: layers,
		},
	)
	require.Len(t, list, len(layers))
	white := 0
	for y := range 180 {
		for x := range 320 {
			sum := 0.0
			for i := range mattes {
				sum += over(x, y, list[mattes[i].Folder()+"/"+mattes[i].Folder()+"_00001.png"])[0]
			}
			all := over(x, y, list["matte-All/matte-All_00001.png"])[0]
			assert.InDelta(t, all, sum, 0.06, "at %d, %d", x, y)
			if all > 0.99 {
				white++
			}
		}
	}
	assert.Greater(t, white, 3000)
}
