package sequence

import (
	"image"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/encode"
	"slowreveal/render"
	"slowreveal/render/lettering"
)

// camera takes one frame after another.
type camera struct {
	film     *film.Film
	frame    *film.Frame
	scene    *render.Scene
	view     *render.View
	plates   []*plate      // one, or one before white and one before black
	video    *render.Video // of the first, where frames leave as 4:2:0
	words    *lettering.Captions
	logo     *lettering.Logo
	captions bool        // set each step's words
	notices  bool        // set each step's notice and tools
	steady   bool        // the words of the step that runs are there in full
	notes    []film.Note // of the last picture
	cards    []film.Card
	aspect   float64
	out      render.RGBA // the last frame, unless frames leave as video
	bits16   []byte      // the same with 16 bits, where frames leave with them
	mean     bool        // whether the plates are the mean of several pictures, which have 8 bits
	shot     bool        // whether a frame was taken
	exposed  bool        // whether it was the mean of pictures in which nothing moved
	aperture float64
	safe     bool // draw the safe areas
	eye      *reveal.Camera
	lastStep int
	lastSaid float64      // how strongly its words were there
	probe    *render.View // work space
	layer    *Layer       // when not nil, what is shown
	matte    []bool       // by node: what the layer's matte is of
	finishes []bool       // by finish: the same, where it is of these
	card     *film.Card   // when not nil, the words of the layer
}

// plate is a picture of the scene before one background.
type plate struct {
	backdrop *[2]space.Vec3 // nil for the look's background
	renderer *render.Renderer
	picture  *render.Picture
	big      *render.Picture // of twice the size, where a pixel has sixteen samples
	noisy    bool            // whether it is rounded by noise then
	sum      []uint16        // of the pictures that a blurred frame is the mean of
}

// draw draws the camera's view.
func (p *plate) draw(c *camera) {
	if p.backdrop != nil {
		c.dress(&p.backdrop[0])
	} else {
		c.dress(&look.Default.BackgroundTop)
	}
	if p.big == nil {
		p.renderer.Draw(c.view, p.picture)
		return
	}
	p.renderer.Draw(c.view, p.big)
	p.renderer.Halve(p.big, p.picture, p.noisy)
}

// framed is the film in the plan's frames, its notes off the logo.
func (p *Plan) framed(f *film.Film) *film.Film {
	f = f.Shaped(float64(p.Width)/float64(p.Height), p.Fill)
	if p.Logo != nil && f.HasNotes() {
		f = f.KeptFree(p.Logo.Place(p.Width, p.Height))
	}
	return f
}

func newCamera(f *film.Film, scene *render.Scene, p *Plan) (*camera, error) {
	f = p.framed(f)
	c := &camera{
		film:     f,
		frame:    f.NewFrame(),
		scene:    scene,
		view:     scene.NewView(),
		logo:     p.Logo,
		captions: p.Captions,
		notices:  p.Notices,
		steady:   p.Steady,
		aperture: p.Aperture,
		safe:     p.SafeAreas,
		eye:      p.Eye,
		aspect:   float64(p.Width) / float64(p.Height),
	}
	backdrops := []*[2]space.Vec3{nil}
	switch b := p.Background; {
	case b.Transparent:
		backdrops = []*[2]space.Vec3{{{1, 1, 1}, {1, 1, 1}}, {}}
	case b.Top != nil && b.Foot != nil:
		backdrops[0] = &[2]space.Vec3{*b.Top, *b.Foot}
	}
	times := 1
	if p.Samples == 16 {
		times = 2
	}
	for _, backdrop := range backdrops {
		r, err := render.NewRenderer(scene, times*p.Width, times*p.Height, p.Threads)
		if err != nil {
			return nil, err
		}
		if backdrop != nil {
			r.SetBackdrop(backdrop[0], backdrop[1])
		}
		if p.Background.Image != nil {
			r.SetBackdropImage(p.Background.Image)
		}
		if p.Background.dark() {
			r.DrawOnDark()
		}
		one := &plate{backdrop: backdrop, renderer: r, noisy: !p.Background.Transparent && p.Video.Graded()}
		if times == 2 || !one.noisy {
			r.RoundToNearest() // alpha is reckoned from two of them, or the format dithers by itself
		}
		one.picture = render.NewPicture(p.Width, p.Height)
		if p.Video.Raw() == frames16 && times == 1 {
			r.Keep16Bits()
		}
		if times == 2 {
			r.ForHalves()
			one.big = render.NewPicture(2*p.Width, 2*p.Height)
		}
		c.plates = append(c.plates, one)
	}
	switch p.Video.Raw() {
	case "yuv420p":
		c.video = render.NewVideo(c.plates[0].picture)
	case frames16:
		c.bits16 = make([]byte, frameBytes(p.Video, p.Width, p.Height))
		fallthrough
	default:
		c.out = render.NewRGBA(p.Width, p.Height)
	}
	words, err := lettering.NewCaptions(p.Width, p.Height, f.Reveal.CaptionStyle(), p.Fonts...)
	if err == nil && p.Background.dark() {
		words.OnDark()
	}
	if err == nil {
		words.Beside(p.Logo)
	}
	c.words = words
	return c, err
}

// frames16 is the layout of frames with 16 bits a colour, the lower eight first.
const frames16 = "rgba64le"

// frameBytes is the length of a frame as it goes to the encoder.
func frameBytes(v *encode.Format, width, height int) int {
	switch v.Raw() {
	case "yuv420p":
		return width * height * 3 / 2
	case frames16:
		return 8 * width * height
	}
	return 4 * width * height
}

// shoot renders the film at t into out. A frame that looks like the one before
// it is not rendered again.
func (c *camera) shoot(t reveal.Micros, out *render.Frame) {
	c.into(out)
	if same := c.unchanged(t); !same || !c.shot {
		c.take()
	}
	c.hand(out)
}

// into says which frame is being made, nil for none.
func (c *camera) into(out *render.Frame) {
	if c.video != nil {
		c.video.Into(out)
	}
}

// hand puts what was developed last into a frame.
func (c *camera) hand(out *render.Frame) {
	if c.video != nil {
		c.video.Follow()
		return
	}
	if c.bits16 != nil {
		copy(out.Bytes, c.bits16)
		return
	}
	copy(out.Bytes, c.out)
}

// see goes to a time of the reveal. An eye of its own sees neither notes nor cards: they
// are placed for the reveal's.
func (c *camera) see(t reveal.Micros) {
	c.film.At(t, c.frame)
	if c.eye != nil {
		c.frame.Camera, c.frame.Notes, c.frame.Cards = *c.eye, c.frame.Notes[:0], c.frame.Cards[:0]
	}
}

// unchanged goes to t and reports whether the film looks there as in the frame that was
// taken last.
func (c *camera) unchanged(t reveal.Micros) bool {
	c.see(t)
	step, said := c.saying()
	return c.lastStep == step && c.lastSaid == said && slices.EqualFunc(c.notes, c.frame.Notes, film.Note.Same) &&
		slices.Equal(c.cards, c.frame.Cards) && c.view.Shows(c.scene, c.frame, c.aspect)
}

// note keeps what unchanged looks at, but for the view.
func (c *camera) note() {
	c.lastStep, c.lastSaid = c.saying()
	c.notes = append(c.notes[:0], c.frame.Notes...)
	c.cards = append(c.cards[:0], c.frame.Cards...)
}

// take draws the frame as it is.
func (c *camera) take() {
	c.view.Take(c.scene, c.frame, c.aspect)
	c.shot, c.exposed, c.mean = true, false, false
	c.note()
	for i, p := range c.plates {
		noted := i == 0 && c.film.HasNotes() && c.shaded()
		if noted {
			p.renderer.Watch(c.frame.Notes)
		}
		p.draw(c)
		if noted {
			p.renderer.MarkHidden(c.view, c.frame.Notes)
		}
		c.write(p.picture)
	}
	c.develop()
}

// develop turns the plates into a frame as it leaves, unless they are followed by video.
func (c *camera) develop() {
	if c.bits16 != nil {
		c.develop16()
	}
	switch {
	case c.video != nil:
	case len(c.plates) == 2:
		c.out.Matte(c.plates[0].picture, c.plates[1].picture)
	default:
		c.out.Opaque(c.plates[0].picture)
	}
}

// develop16 is develop with 16 bits a colour.
func (c *camera) develop16() {
	colours := func(p *plate) []uint16 {
		if !c.mean && p.big == nil {
			return p.renderer.Picture16(p.picture)
		}
		list := make([]uint16, len(p.picture.RGB))
		for i, v := range p.picture.RGB {
			list[i] = 257 * uint16(v)
		}
		return list
	}
	p := c.plates[0].picture
	var of *image.NRGBA64
	if len(c.plates) == 2 {
		of = render.Matte16(p.Width, p.Height, colours(c.plates[0]), colours(c.plates[1]))
	} else {
		of = render.Opaque16(p.Width, p.Height, colours(c.plates[0]))
	}
	for i := 0; i < len(of.Pix); i += 2 {
		c.bits16[i], c.bits16[i+1] = of.Pix[i+1], of.Pix[i]
	}
}

// shaded reports whether the picture is shown as it is.
func (c *camera) shaded() bool { return c.layer == nil || c.layer.Kind == Shaded }

// saying is whose step's words are seen, −1 for none, and how strongly.
func (c *camera) saying() (step int, opacity float64) {
	switch {
	case !c.captions && !c.notices:
		return -1, 0
	case c.steady:
		return c.frame.Step, 1
	}
	return c.film.Caption(c.frame.Time)
}

// said is what of a step is set into the picture.
func (c *camera) said(s *reveal.Step) lettering.Said {
	said := lettering.SaidOf(s)
	if !c.captions {
		said.Title, said.Instruction = "", ""
	}
	if !c.notices {
		said.Notice, said.Tools = nil, nil
	}
	return said
}

// write sets the words of the frame into a picture.
func (c *camera) write(p *render.Picture) {
	if c.card != nil {
		c.words.Card(p, *c.card)
		c.logo.Draw(p)
		return
	}
	if i, opacity := c.saying(); i >= 0 {
		c.words.Draw(p, c.said(&c.film.Reveal.Steps[i]), opacity)
	}
	if !c.shaded() {
		return // words belong to the picture as it is
	}
	c.words.Notes(p, c.frame.Notes)
	c.logo.Draw(p)
	for _, card := range c.frame.Cards {
		c.words.Card(p, card)
	}
	if c.safe {
		c.words.SafeAreas(p)
	}
}
