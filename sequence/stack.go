package sequence

import (
	"encoding/binary"
	"fmt"
	"image"
	"math"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/render"
)

// stacked are the layers that are the picture when they are laid over one another, from below.
var stacked = []LayerKind{BackgroundLayer, Shadow, Faces, Edges, Words}

// InStack reports whether a layer is one of those that add up.
func (l Layer) InStack() bool {
	for _, k := range stacked {
		if l.Kind == k {
			return true
		}
	}
	return false
}

// MaxStackSide is the longest side of layers that add up, in pixels: they are reckoned from eight pictures at once.
const MaxStackSide = 4096

// Stack takes the layers of moments that add up. How much of each pixel is lines, surface and background is known from
// pictures in which each of them has other colours (two backgrounds determine colour and alpha: Smith and Blinn 1996,
// “Blue Screen Matting”); blending is linear, so that this holds behind what can be seen through, too. Then each layer,
// from below, gets the colour that makes what lies under it, as it was rounded, the picture up to there: rounding does
// not add up.
type Stack struct {
	ground, grounded, lines, covered, bare, shaded *Lens
	ink                                            [3]float64
	width, height                                  int
	bits16                                         bool
	at                                             reveal.Micros
	taken                                          bool
	layers                                         map[LayerKind]*image.NRGBA64
}

// Stack prepares to take the layers that add up; deep is for 16 bits a colour.
func (p *Plan) Stack(f *film.Film, scene *render.Scene, deep bool) (*Stack, error) {
	if p.Width > MaxStackSide || p.Height > MaxStackSide {
		return nil, fmt.Errorf(
			"layers that add up are made up to %d pixels a side; %d × %d is more",
			MaxStackSide,
			p.Width,
			p.Height,
		)
	}
	q := *p
	q.Aperture, q.Background.Transparent, q.Background.Dark = 0, false, p.Background.dark()
	s := &Stack{
		width:  p.Width,
		height: p.Height,
		bits16: deep,
		layers: map[LayerKind]*image.NRGBA64{},
		ink:    look.Default.Ink,
	}
	if q.Background.dark() {
		s.ink = look.Default.InkOnDark
	}
	for _, one := range []struct {
		lens **Lens
		kind LayerKind
		deep bool
	}{{&s.ground, BackgroundLayer, true}, {&s.grounded, grounded, true}, {&s.lines, lines, true}, {&s.covered, covered, true}, {&s.bare, bare, true}, {&s.shaded, Shaded, deep}} {
		var err error
		if *one.lens, err = q.Lens(f, scene, Layer{Kind: one.kind}, one.deep); err != nil {
			return nil, err
		}
	}
	s.shaded.camera.plates[0].renderer.RoundToNearest()
	s.shaded.camera.plates[0].noisy = false
	return s, nil
}

// Take takes the picture of a layer of the stack, or Shaded, at t; it is overwritten by the next at another time.
func (s *Stack) Take(t reveal.Micros, kind LayerKind) image.Image {
	if !s.taken || s.at != t {
		s.take(t)
		s.at, s.taken = t, true
	}
	if s.bits16 {
		return s.layers[kind]
	}
	out := image.NewNRGBA(image.Rect(0, 0, s.width, s.height))
	for i, v := range s.layers[kind].Pix {
		if i%2 == 0 {
			out.Pix[i/2] = v // both bytes are alike
		}
	}
	return out
}

func (s *Stack) take(t reveal.Micros) {
	ground := s.ground.Take16(t)
	grounded := s.grounded.Take16(t)
	lines := s.lines.Take16(t)
	covered := s.covered.Take16(t)
	bare := s.bare.Take16(t)
	for _, k := range stacked {
		s.layers[k] = image.NewNRGBA64(image.Rect(0, 0, s.width, s.height))
	}
	shaded := s.picture(t)
	s.layers[Shaded] = shaded
	written := s.written()
	dark := look.Default.Ink
	if s.ink != look.Default.Ink {
		dark = [3]float64{}
	}
	for i := range s.width * s.height {
		under := [3]float64{}
		lay := func(kind LayerKind, alpha float64, want [3]float64) {
			s.lay(s.layers[kind], i, alpha, want, &under)
		}
		background, shadowed, picture := colourAt(ground, i), colourAt(grounded, i), colourAt(bare, i)
		lay(BackgroundLayer, 1, background)
		lay(Shadow, between(background, shadowed, dark), shadowed)
		ink := alphaAt(lines, i)
		surface := max(alphaAt(covered, i)-ink, 0)
		if ink < 1 {
			var faces [3]float64
			for k := range faces {
				faces[k] = (picture[k] - ink*s.ink[k]) / (1 - ink)
			}
			lay(Faces, min(surface/(1-ink), 1), faces)
		}
		lay(Edges, ink, picture)
		lay(Words, float64(written[i])/255, colourAt(shaded, i))
	}
}

// picture is what the layers add up to, rounded to the nearest.
func (s *Stack) picture(t reveal.Micros) *image.NRGBA64 {
	if s.bits16 {
		return s.shaded.Take16(t)
	}
	out := image.NewNRGBA64(image.Rect(0, 0, s.width, s.height))
	for i, v := range s.shaded.Take(t) {
		out.Pix[2*i], out.Pix[2*i+1] = v, v
	}
	return out
}

// written is how much of each pixel words cover.
func (s *Stack) written() []byte {
	c := s.shaded.camera
	white, black := render.NewPicture(s.width, s.height), render.NewPicture(s.width, s.height)
	for i := range white.RGB {
		white.RGB[i] = 255
	}
	c.write(white)
	c.write(black)
	both := render.NewRGBA(s.width, s.height)
	both.Matte(white, black)
	out := make([]byte, s.width*s.height)
	for i := range out {
		out[i] = both[4*i+3]
	}
	return out
}

// lay puts a pixel into a layer so that, laid over what is under it, it gives what is wanted as nearly as its bits
// allow; what is under the next layer is the outcome.
func (s *Stack) lay(into *image.NRGBA64, i int, alpha float64, want [3]float64, under *[3]float64) {
	// Upwards: a little more of a colour that is a little nearer can be told, too little of it cannot be made up for.
	alpha = math.Ceil(max(0, min(alpha, 1))*s.most()-alphaSlack) / s.most()
	if alpha <= 0 {
		return
	}
	binary.BigEndian.PutUint16(into.Pix[8*i+6:], uint16(alpha*65535+0.5))
	for k := range want {
		colour := s.rounded((want[k] - (1-alpha)*under[k]) / alpha)
		binary.BigEndian.PutUint16(into.Pix[8*i+2*k:], uint16(colour*65535+0.5))
		under[k] = alpha*colour + (1-alpha)*under[k]
	}
}

// rounded is the nearest number that the layers' bits hold.
func (s *Stack) rounded(v float64) float64 {
	return math.Floor(max(0, min(v, 1))*s.most()+0.5) / s.most()
}

// most is the largest number of the layers' bits.
func (s *Stack) most() float64 {
	if s.bits16 {
		return 65535
	}
	return 255
}

// alphaSlack is how much of an alpha may be the rounding of the 16 bits that it was found from.
const alphaSlack = 0.02

func colourAt(p *image.NRGBA64, i int) (c [3]float64) {
	for k := range c {
		c[k] = float64(binary.BigEndian.Uint16(p.Pix[8*i+2*k:])) / 65535
	}
	return c
}

func alphaAt(p *image.NRGBA64, i int) float64 {
	return float64(binary.BigEndian.Uint16(p.Pix[8*i+6:])) / 65535
}

// between is how far a colour is on the way from one to another.
func between(from, at, to [3]float64) float64 {
	way, gone := 0.0, 0.0
	for k := range from {
		way += (to[k] - from[k]) * (to[k] - from[k])
		gone += (at[k] - from[k]) * (to[k] - from[k])
	}
	if way == 0 {
		return 0
	}
	return gone / way
}
