package sequence

import (
	"fmt"
	"image"
	"math"
	"slices"
	"strings"

	"golang.org/x/image/draw"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/timecode"
	"slowreveal/encode"
	"slowreveal/render"
	"slowreveal/render/lettering"
)

// Order says which film, or which pictures, are wanted.
type Order struct {
	// Format is the name of a video format; MP4 with H.264 when empty.
	Format        string
	Purpose       encode.Purpose
	Width, Height int
	// Rate is frames a second; Slowed takes 1000/1001 of them.
	Rate int
	NTSC bool
	// From and To bound the time that is shown; To 0 means the end. Steps, when there are
	// any, choose the time of these instead.
	From, To reveal.Micros
	Steps    []reveal.StepID
	// Speed is how fast time runs, 1 (or 0) as directed; Backwards shows it from its end.
	Speed   float64
	Reverse bool
	// Captions sets each step's title and instruction into the picture.
	Captions bool
	// Notices sets each step's safety notice and its tools into the picture.
	Notices    bool
	Background Background
	// ShutterSamples is how many moments around its own a frame is the mean of; 0 and 1 for none.
	ShutterSamples int
	// Eye, when not nil, looks in place of the reveal's camera.
	Eye *reveal.Camera
	// Aperture is the focal length over the diameter of the lens: what is nearer or farther
	// than what the camera looks at is unsharp; 0 for all sharp.
	Aperture float64
	// Samples is how many samples a pixel has: 16, or 4 (0 is 4).
	Samples int
	// SafeAreas draws the borders of the safe areas, for a look.
	SafeAreas bool
	// Steady sets the words of the step that runs in full: for pictures that stand alone.
	Steady bool
	// Fill leaves cameras where they are in frames of another shape than the reveal's, and cuts off what is outside.
	Fill bool
	// Fonts have signs for words that the shipped ones lack.
	Fonts []*lettering.Font
	// Logo, when not nil, stands in a corner.
	Logo    *lettering.Logo
	Threads int
}

// Background is what lies behind everything: the look's background, nothing (Transparent, for formats
// with alpha), two colours, display values at the top and at the foot, or an image.
type Background struct {
	Transparent bool
	Dark        bool // what is clear is to lie on something dark
	Top, Foot   *space.Vec3
	Image       image.Image
}

// dark reports whether words on the background are better light: where its luma (ITU-R
// BT.709), on the whole, is nearer to black.
func (b *Background) dark() bool {
	luma := func(c space.Vec3) float64 { return 0.2126*c[0] + 0.7152*c[1] + 0.0722*c[2] }
	switch {
	case b.Transparent && b.Dark:
		return true
	case b.Image != nil:
		mean := image.NewRGBA(image.Rect(0, 0, 8, 8))
		draw.ApproxBiLinear.Scale(mean, mean.Rect, b.Image, b.Image.Bounds(), draw.Src, nil)
		sum := 0.0
		for i := 0; i < len(mean.Pix); i += 4 {
			sum += luma(space.Vec3{float64(mean.Pix[i]), float64(mean.Pix[i+1]), float64(mean.Pix[i+2])}) / 255 / 64
		}
		return sum < 0.45
	case b.Top != nil && b.Foot != nil:
		return (luma(*b.Top)+luma(*b.Foot))/2 < 0.45
	}
	return false
}

// Span is a stretch of a reveal's time.
type Span struct{ From, To reveal.Micros }

// Plan is an order worked out: how many frames there are and what each shows.
type Plan struct {
	Order
	Video  *encode.Format
	Rate   timecode.Rate
	Spans  []Span
	Frames int
}

// MaxFrames is the largest number of frames of one film: 4 hours at 60.
const MaxFrames = 4 * 3600 * 60

// The bounds of speed.
const (
	MinSpeed = 0.1
	MaxSpeed = 20
)

// Plan completes the order from the reveal and checks it.
func (o Order) Plan(f *film.Film) (*Plan, error) {
	frame := f.Reveal.Frame
	if o.Width == 0 && o.Height == 0 {
		o.Width, o.Height = frame.Width, frame.Height
	}
	if o.Rate == 0 {
		o.Rate = frame.Rate
	}
	if o.Format == "" {
		o.Format = "mp4-h264"
	}
	if o.Speed == 0 {
		o.Speed = 1
	}
	video, err := encode.Lookup(o.Format)
	if err != nil {
		return nil, err
	}
	p := &Plan{Order: o, Video: video, Rate: timecode.RateOf(o.Rate, o.NTSC)}
	if p.Spans, err = o.spans(f); err != nil {
		return nil, err
	}
	if err := p.check(); err != nil {
		return nil, err
	}
	p.Frames = p.Rate.Count(p.Duration())
	if p.Frames < 1 || p.Frames > MaxFrames {
		return nil, fmt.Errorf(
			"the film would have %d frames; it needs at least 1 and at most %d: add a step, or choose another span",
			p.Frames,
			MaxFrames,
		)
	}
	return p, nil
}

func (p *Plan) check() error {
	switch {
	case p.Width < 16 || p.Height < 16 || p.Width > render.MaxSide || p.Height > render.MaxSide:
		return fmt.Errorf("the size %d × %d is not between 16 and %d pixels a side", p.Width, p.Height, render.MaxSide)
	case p.Video.Even() && (p.Width%2 != 0 || p.Height%2 != 0):
		return fmt.Errorf(
			"the size %d × %d is odd; %s needs an even width and height",
			p.Width,
			p.Height,
			p.Video.Title,
		)
	case p.Order.Rate < 1 || p.Order.Rate > reveal.MaxRate:
		return fmt.Errorf("the rate of %d frames a second is not between 1 and %d", p.Order.Rate, reveal.MaxRate)
	case p.Video.MaxRate > 0 && p.Order.Rate > p.Video.MaxRate:
		return fmt.Errorf("%s holds at most %d frames a second, not %d", p.Video.Title, p.Video.MaxRate, p.Order.Rate)
	case math.IsNaN(p.Speed) || p.Speed < MinSpeed || p.Speed > MaxSpeed:
		return fmt.Errorf("the speed %g is not between %g and %d", p.Speed, MinSpeed, MaxSpeed)
	case p.Samples != 0 && p.Samples != 4 && p.Samples != 16:
		return fmt.Errorf("a pixel has 4 or 16 samples, not %d", p.Samples)
	case p.Samples == 16 && 2*max(p.Width, p.Height) > render.MaxSide:
		return fmt.Errorf(
			"pictures of %d × %d pixels are too large for 16 samples a pixel, which take up to %d a side",
			p.Width,
			p.Height,
			render.MaxSide/2,
		)
	case p.ShutterSamples < 0 || p.ShutterSamples > MaxShutterSamples:
		return fmt.Errorf(
			"motion blur of %d pictures a frame is not between 0 and %d",
			p.ShutterSamples,
			MaxShutterSamples,
		)
	case p.Aperture != 0 && !(p.Aperture >= MinAperture && p.Aperture <= MaxAperture):
		return fmt.Errorf(
			"an aperture of %g is not between %g and %d, nor 0 for everything sharp",
			p.Aperture,
			MinAperture,
			MaxAperture,
		)
	case p.Background.Transparent && !p.Video.Alpha:
		return fmt.Errorf("%s cannot keep a transparent background; MOV with alpha can", p.Video.Title)
	}
	switch p.Purpose {
	case "", encode.Draft, encode.Web, encode.Archive, encode.Edit:
		return nil
	}
	return fmt.Errorf("the purpose %q is none of draft, web, archive, edit", p.Purpose)
}

func (o *Order) spans(f *film.Film) ([]Span, error) {
	if len(o.Steps) == 0 {
		to := o.To
		if to == 0 {
			to = f.Duration()
		}
		if o.From < 0 || to > f.Duration() || o.From > to {
			return nil, fmt.Errorf(
				"the span from %.2f s to %.2f s does not lie within the reveal's %.2f s",
				seconds(o.From),
				seconds(to),
				seconds(f.Duration()),
			)
		}
		return []Span{{o.From, to}}, nil
	}
	var list []Span
	wanted := map[reveal.StepID]bool{}
	for _, id := range o.Steps {
		if f.Reveal.FindStep(id) < 0 {
			return nil, fmt.Errorf("the step %q is not in the reveal %q any more", id, f.Reveal.Title)
		}
		wanted[id] = true
	}
	for _, s := range f.Schedule.Steps { // in the reveal's order
		if wanted[s.Step] && s.Duration > 0 {
			list = append(list, Span{s.Start, s.Start + s.Duration})
		}
	}
	return list, nil
}

// Duration is how long the film lasts.
func (p *Plan) Duration() reveal.Micros {
	total := reveal.Micros(0)
	for _, s := range p.Spans {
		total += s.To - s.From
	}
	return reveal.Micros(math.Round(float64(total) / p.Speed))
}

// Shown returns the reveal's time that is shown at a time of the film.
func (p *Plan) Shown(t reveal.Micros) reveal.Micros {
	t = reveal.Micros(math.Round(float64(t) * p.Speed))
	total := reveal.Micros(0)
	for _, s := range p.Spans {
		total += s.To - s.From
	}
	if p.Reverse {
		t = total - t
	}
	for i, s := range p.Spans {
		if t < s.To-s.From || i == len(p.Spans)-1 {
			return s.From + max(0, min(t, s.To-s.From))
		}
		t -= s.To - s.From
	}
	return 0
}

// Passage is a step, or a part of one, as it is seen in the film.
type Passage struct {
	Film     *film.Film
	Step     reveal.StepID
	From, To reveal.Micros // of the film's time
}

// passages returns the steps as they follow one another.
func (p *Plan) passages(f *film.Film) []Passage {
	var list []Passage
	at := reveal.Micros(0)
	scaled := func(t reveal.Micros) reveal.Micros { return reveal.Micros(math.Round(float64(t) / p.Speed)) }
	for _, span := range p.Spans {
		for _, s := range f.Schedule.Steps {
			from, to := max(s.Start, span.From), min(s.Start+s.Duration, span.To)
			if from < to {
				list = append(list, Passage{f, s.Step, scaled(at + from - span.From), scaled(at + to - span.From)})
			}
		}
		at += span.To - span.From
	}
	if p.Reverse {
		length := p.Duration()
		for i := range list {
			list[i].From, list[i].To = length-list[i].To, length-list[i].From
		}
		slices.Reverse(list)
	}
	return list
}

func titleOf(f *film.Film, id reveal.StepID) string {
	k := f.Reveal.FindStep(id)
	if title := strings.TrimSpace(f.Reveal.Steps[k].Title); title != "" {
		return title
	}
	return fmt.Sprintf("Step %d", k+1)
}

func seconds(t reveal.Micros) float64 { return float64(t) / float64(reveal.Second) }
