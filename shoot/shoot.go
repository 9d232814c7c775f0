package shoot

import (
	"context"
	"fmt"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/render"
)

// Order says which film is wanted.
type Order struct {
	Width, Height, Rate int
	// From and To bound the time that is shown; To 0 means the end.
	From, To reveal.Micros
	// Captions sets each step's title and instruction at the foot.
	Captions bool
	Draft    bool
	Threads  int
}

// MaxFrames is the largest number of frames of one film: 4 hours at 240.
const MaxFrames = 4 * 3600 * 240

// Fill completes the order from the reveal and checks it. It returns the
// number of frames.
func (o *Order) Fill(f *film.Film) (int, error) {
	frame := f.Reveal.Frame
	if o.Width == 0 && o.Height == 0 {
		o.Width, o.Height = frame.Width, frame.Height
	}
	if o.Rate == 0 {
		o.Rate = frame.Rate
	}
	if o.To == 0 {
		o.To = f.Duration()
	}
	switch {
	case o.Width < 16 || o.Height < 16 || o.Width > render.MaxSide || o.Height > render.MaxSide:
		return 0, fmt.Errorf("the size %d × %d is not between 16 and %d pixels a side", o.Width, o.Height, render.MaxSide)
	case o.Width%2 != 0 || o.Height%2 != 0:
		return 0, fmt.Errorf("the size %d × %d is odd; video needs an even width and height", o.Width, o.Height)
	case o.Rate < 1 || o.Rate > reveal.MaxRate:
		return 0, fmt.Errorf("the rate of %d frames a second is not between 1 and %d", o.Rate, reveal.MaxRate)
	case o.From < 0 || o.To > f.Duration() || o.From > o.To:
		return 0, fmt.Errorf("the span from %.2f s to %.2f s does not lie within the reveal's %.2f s", seconds(o.From), seconds(o.To), seconds(f.Duration()))
	}
	n := film.FrameCount(o.To-o.From, o.Rate)
	if n < 1 || n > MaxFrames {
		return 0, fmt.Errorf("the film would have %d frames; it needs at least 1 and at most %d: add a step, or choose another span", n, MaxFrames)
	}
	return n, nil
}

func seconds(t reveal.Micros) float64 { return float64(t) / float64(reveal.Second) }

// Film renders the ordered film into the file out. progress, when not nil, is
// told after each frame how many are done.
func Film(ctx context.Context, f *film.Film, scene *render.Scene, o Order, out string, progress func(done, of int)) error {
	n, err := o.Fill(f)
	if err != nil {
		return err
	}
	c, err := newCamera(f, scene, o)
	if err != nil {
		return err
	}
	enc, err := encode.Start(ctx, out, encode.Settings{Width: o.Width, Height: o.Height, Rate: o.Rate, Title: f.Reveal.Title, Draft: o.Draft})
	if err != nil {
		return err
	}
	w := startWriter(enc, o.Width, o.Height)
	for k := range n {
		if ctx.Err() != nil {
			break
		}
		frame := <-w.free
		c.shoot(o.From+film.FrameTime(k, o.Rate), frame)
		w.ready <- frame
		if w.failed() {
			break
		}
		if progress != nil {
			progress(k+1, n)
		}
	}
	err = w.finish()
	if ctx.Err() != nil { // then ffmpeg was stopped too, and its words do not matter
		enc.Abort()
		return ctx.Err()
	}
	if err != nil {
		return err
	}
	return enc.Close()
}

// camera takes one frame after another.
type camera struct {
	film     *film.Film
	frame    *film.Frame
	scene    *render.Scene
	view     *render.View
	renderer *render.Renderer
	picture  *render.Picture
	words    *render.Captions
	captions bool        // set each step's words
	notes    []film.Note // of the last picture
	cards    []film.Card
	aspect   float64
	video    *render.Video
	shot     bool // whether a frame was taken
	lastStep int
}

func newCamera(f *film.Film, scene *render.Scene, o Order) (*camera, error) {
	r, err := render.NewRenderer(scene, o.Width, o.Height, o.Threads)
	if err != nil {
		return nil, err
	}
	c := &camera{film: f, frame: f.NewFrame(), scene: scene, view: scene.NewView(), renderer: r,
		picture: render.NewPicture(o.Width, o.Height), aspect: float64(o.Width) / float64(o.Height)}
	c.captions, c.video = o.Captions, render.NewVideo(c.picture)
	c.words, err = render.NewCaptions(o.Width, o.Height, f.Reveal.CaptionStyle())
	return c, err
}

// shoot renders the film at t into out. A frame that looks like the one before
// it is copied, not rendered again.
func (c *camera) shoot(t reveal.Micros, out render.YUV) {
	c.film.At(t, c.frame)
	if c.shot && c.lastStep == c.frame.Step && slices.EqualFunc(c.notes, c.frame.Notes, film.Note.Same) && slices.Equal(c.cards, c.frame.Cards) && c.view.Shows(c.scene, c.frame, c.aspect) {
		copy(out, c.video.Frame)
		return
	}
	c.view.Take(c.scene, c.frame, c.aspect)
	c.lastStep = c.frame.Step
	c.renderer.Draw(c.view, c.picture)
	if c.captions && c.frame.Step >= 0 {
		step := &c.film.Reveal.Steps[c.frame.Step]
		c.words.Draw(c.picture, step.Title, reveal.PlainProse(step.Instruction))
	}
	c.words.Notes(c.picture, c.frame.Notes)
	for _, card := range c.frame.Cards {
		c.words.Card(c.picture, card)
	}
	c.notes = append(c.notes[:0], c.frame.Notes...)
	c.cards = append(c.cards[:0], c.frame.Cards...)
	c.shot = true
	c.video.Follow()
	copy(out, c.video.Frame)
}

// Still renders the film at t as a picture.
func Still(f *film.Film, scene *render.Scene, o Order, t reveal.Micros) (*render.Picture, error) {
	if _, err := o.Fill(f); err != nil {
		return nil, err
	}
	c, err := newCamera(f, scene, o)
	if err != nil {
		return nil, err
	}
	c.shoot(t, render.NewYUV(o.Width, o.Height))
	return c.picture, nil
}
