package sequence

import (
	"image"
	"image/color"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/draw"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/timecode"
	"slowreveal/demo"
	"slowreveal/render"
)

// Behind a thin lens of diameter D, focused at a, a point at b spreads over the angle
// D·|1/a − 1/b| (geometrical optics; derived, no source): what is looked at stays sharp.
func TestThingsOutOfFocusSpreadAsBehindAThinLens(t *testing.T) {
	c := reveal.Camera{
		Target:      space.Vec3{10, 20, 30},
		Orientation: space.Quat{0.1, 0.3, -0.2, 0.9}.Normalized(),
		Distance:    600,
		FocalLength: 50,
	}
	const aperture, n = 2.8, 400
	axis := film.Eye(c)
	for _, b := range []float64{300, 500, 600, 900, 2000} {
		point := axis.Apply(space.Vec{Z: -b})
		widest, sum := 0.0, [2]float64{}
		for i := range n {
			turned := through(c, aperture, i, n)
			assert.InDelta(t, 1, turned.Orientation.Norm(), 1e-12)
			eye := film.Eye(turned)
			inverse := eye.Inverse()
			seen := inverse.Apply(point)
			x, y := -seen.X/seen.Z, -seen.Y/seen.Z
			widest = max(widest, 2*math.Hypot(x, y))
			sum[0], sum[1] = sum[0]+x/n, sum[1]+y/n
		}
		want := 50 / aperture * math.Abs(1/600.0-1/b)
		assert.InDelta(t, want, widest, 0.01*want+1e-5, "at %g mm", b)
		assert.InDelta(t, 0, math.Hypot(sum[0], sum[1]), 0.02*want+1e-5, "it spreads evenly")
	}
}

// Every point of the lens is looked through once, whatever a frame is the mean of.
func TestEveryPointOfTheLensIsLookedThrough(t *testing.T) {
	for blur := range MaxShutterSamples + 1 {
		p := &Plan{
			Order: Order{Aperture: 4, ShutterSamples: blur, Speed: 1},
			Rate:  timecode.RateOf(30, false),
			Spans: []Span{{0, 10 * reveal.Second}},
		}
		seen := map[int]bool{}
		list := p.exposure(90)
		for _, i := range list {
			seen[i.lens] = true
			if blur < 2 {
				assert.Equal(t, 3*reveal.Second, i.at)
			}
		}
		assert.Len(t, seen, len(list))
		assert.GreaterOrEqual(t, len(list), lensPictures)
	}
}

// A frame is the mean of as many pictures as it takes for the copies of a point that is most out of focus to lie
// together, up to a bound; none is taken twice, and small blurs take no more than before.
func TestABlurHasNoGhosts(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	var counts []int
	for _, aperture := range []float64{64, 5.6, 2.8, 0.7} {
		p, err := Order{Width: 640, Height: 360, Format: anySize, Aperture: aperture}.Plan(f)
		require.NoError(t, err)
		c, err := newCamera(f, scene, p)
		require.NoError(t, err)
		c.aperture = aperture
		list := c.sharpen(p.moment(34 * reveal.Second))
		points := map[int]bool{}
		for _, i := range list {
			points[i.lens] = true
		}
		assert.Len(t, points, len(list))
		if n := len(list); n < lensCounts[len(lensCounts)-1] {
			radius := c.blurred()
			assert.LessOrEqual(t, math.Sqrt(math.Pi*radius*radius/float64(n)), copyApart)
		}
		counts = append(counts, len(list))
	}
	assert.Equal(t, lensPictures, counts[0])
	assert.Equal(t, lensCounts[len(lensCounts)-1], counts[3])
	assert.IsNonDecreasing(t, counts)
}

// Words that lie on a dark background are light.
func TestWordsOnTheDarkAreLight(t *testing.T) {
	night := image.NewUniform(color.NRGBA{20, 26, 40, 255})
	sky := image.NewRGBA(image.Rect(0, 0, 40, 30))
	draw.Draw(sky, sky.Rect, night, image.Point{}, draw.Src)
	black, white := space.Vec3{}, space.Vec3{1, 1, 1}
	for want, list := range map[bool][]Background{
		true:  {{Image: sky}, {Top: &black, Foot: &black}, {Top: &black, Foot: &space.Vec3{0.4, 0.4, 0.4}}},
		false: {{}, {Transparent: true}, {Top: &white, Foot: &white}},
	} {
		for _, b := range list {
			assert.Equal(t, want, b.dark())
		}
	}
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	brightest := func(captions bool) (most byte) {
		p, err := Still(
			f,
			scene,
			Order{Width: 320, Height: 180, Captions: captions, Background: Background{Top: &black, Foot: &black}},
			0,
		)
		require.NoError(t, err)
		for y := 150; y < 180; y++ { // the words' place, low on the left
			for x := range 120 {
				most = max(most, p.RGB[3*(y*320+x)])
			}
		}
		return most
	}
	assert.Greater(t, brightest(true), byte(150))
	assert.Less(t, brightest(false), byte(60))
}
