package sequence

import (
	"cmp"
	"context"
	"fmt"
	"image"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"github.com/sourcegraph/conc/panics"
	"golang.org/x/sync/errgroup"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/render"
)

// anySize is a format that takes frames of any size, with alpha.
const anySize = "mov-png"

// Progress is told how many frames are done, and the last of them: a picture that is
// overwritten by the next.
type Progress func(done int, last *render.Picture)

// SegmentPath is where a segment lies in the folder in which it is made.
func (c *Sequence) SegmentPath(folder string, segment int) string {
	return filepath.Join(folder, fmt.Sprintf("%05d.segment", segment))
}

// Segment renders one segment of the film into its folder. Its bytes do not depend on who
// makes it, nor on what was made before.
func (c *Sequence) Segment(ctx context.Context, folder string, segment int, progress Progress) error {
	t, ok := c.spare.Get().(*compositor)
	if !ok {
		t = newCompositor(c)
	}
	defer c.spare.Put(t)
	enc, err := c.segment(ctx, t, folder, segment, progress)
	if err != nil {
		return err
	}
	return enc.Close()
}

// segment hands all frames of a segment over to an encoder, which is left to be closed.
func (c *Sequence) segment(
	ctx context.Context,
	t *compositor,
	folder string,
	segment int,
	progress Progress,
) (*encode.Segment, error) {
	first, p := 0, c.Plan
	segments := c.Segments()
	for _, n := range segments[:segment] {
		first += n
	}
	enc, err := encode.Start(
		ctx,
		c.SegmentPath(folder, segment),
		encode.Settings{Format: p.Video, Width: p.Width, Height: p.Height, Rate: p.Rate, Purpose: p.Purpose},
	)
	if err != nil {
		return nil, err
	}
	w := startWriter(enc, t.toEncode())
	var wrong error
	for k := range segments[segment] {
		if ctx.Err() != nil || w.failed() {
			break
		}
		frame := <-w.free
		if wrong = t.frame(first+k, frame); wrong != nil {
			break
		}
		w.ready <- frame
		if progress != nil {
			progress(k+1, t.last)
		}
	}
	err = w.finish()
	if ctx.Err() != nil || wrong != nil { // then ffmpeg is stopped too, and its words do not matter
		enc.Abort()
		return nil, cmp.Or(wrong, ctx.Err())
	}
	if err != nil {
		return nil, err
	}
	return enc, nil
}

// Join makes the film of its segments. What the whole says of format, rate and segments is
// filled in.
func (c *Sequence) Join(ctx context.Context, w encode.Whole, folder, out string) error {
	w.Format, w.Rate, w.Frames = c.Plan.Video, c.Plan.Rate, c.Segments()
	w.Segments = nil
	for i := range w.Frames {
		w.Segments = append(w.Segments, c.SegmentPath(folder, i))
	}
	if w.Title == "" {
		w.Title = c.clips[0].clip.Film.Reveal.Title
	}
	if w.Chapters == nil {
		w.Chapters = c.Chapters()
	}
	return encode.Join(ctx, &w, out)
}

// Make makes the whole film in this process.
func (c *Sequence) Make(ctx context.Context, w encode.Whole, out string, progress Progress) error {
	if err := encode.Check(ctx, c.Plan.Video); err != nil {
		return err
	}
	folder, err := os.MkdirTemp(filepath.Dir(out), ".segments-")
	if err != nil {
		return fmt.Errorf("the film cannot be written to %s: %w", filepath.Dir(out), err)
	}
	defer os.RemoveAll(folder)
	if err := c.AllSegments(ctx, folder, progress); err != nil {
		return err
	}
	return c.Join(ctx, w, folder, out)
}

// MaxLanes bounds how many segments a process makes at once, each of which takes the memory of a
// renderer.
const MaxLanes = 4

// Lanes divides threads, 0 for one for each processor, among segments that are made at once: how
// many these are, and how many threads each has.
func Lanes(threads, segments int) (lanes, each int) {
	if threads <= 0 {
		threads = runtime.GOMAXPROCS(0)
	}
	lanes = min(threads, segments, MaxLanes)
	return lanes, threads / lanes
}

// AllSegments renders all segments of the film into a folder, as many at once as there are
// threads for them: while one waits for its encoder, another has the processors. The encoder
// of a segment comes to its end while the next is rendered. One goroutine at a time calls
// progress.
func (c *Sequence) AllSegments(ctx context.Context, folder string, progress Progress) error {
	segments := c.Segments()
	lanes, threads := Lanes(c.Plan.Threads, len(segments))
	var next atomic.Int64
	var telling sync.Mutex
	done := 0
	tell := func(_ int, last *render.Picture) {
		telling.Lock()
		defer telling.Unlock()
		done++
		if progress != nil {
			progress(done, last)
		}
	}
	all, ctx := errgroup.WithContext(ctx)
	for range lanes {
		t := newCompositor(c)
		t.threads = threads
		all.Go(guarded(func() error {
			for {
				i := int(next.Add(1)) - 1
				if i >= len(segments) {
					return nil
				}
				enc, err := c.segment(ctx, t, folder, i, tell)
				if err != nil {
					return err
				}
				all.Go(guarded(enc.Close))
			}
		}))
	}
	return all.Wait()
}

// guarded makes a panic in a goroutine an error (*panics.ErrRecovered), so that it ends what is being made
// and not the process.
func guarded(do func() error) func() error {
	return func() (err error) {
		if p := panics.Try(func() { err = do() }); p != nil {
			return p.AsError()
		}
		return err
	}
}

// Picture takes frame k of the film as a picture.
func (c *Sequence) Picture(k int) (*image.NRGBA, error) {
	video, err := encode.Lookup(anySize)
	if err != nil {
		return nil, err
	}
	q := &Sequence{Plan: c.Plan, Frames: c.Frames, fade: c.fade, clips: slices.Clone(c.clips)}
	for i := range q.clips {
		r := *q.clips[i].clip
		p := *r.Plan
		p.Video, r.Plan = video, &p
		q.clips[i].clip = &r
	}
	out := image.NewNRGBA(image.Rect(0, 0, c.Plan.Width, c.Plan.Height))
	return out, newCompositor(q).frame(k, &render.Frame{Bytes: out.Pix})
}

// Film makes the film of one reveal.
func Film(
	ctx context.Context,
	f *film.Film,
	scene *render.Scene,
	o Order,
	w encode.Whole,
	out string,
	progress Progress,
) error {
	p, err := o.Plan(f)
	if err != nil {
		return err
	}
	return p.Alone(f, scene).Make(ctx, w, out, progress)
}

// Still renders the film at t as a picture.
func Still(f *film.Film, scene *render.Scene, o Order, t reveal.Micros) (*render.Picture, error) {
	c, err := still(f, scene, o, t)
	if err != nil {
		return nil, err
	}
	return c.plates[0].picture, nil
}

// StillRGBA renders the film at t as a picture with alpha.
func StillRGBA(f *film.Film, scene *render.Scene, o Order, t reveal.Micros) (render.RGBA, error) {
	c, err := still(f, scene, o, t)
	if err != nil {
		return nil, err
	}
	return c.out, nil
}

// still returns a camera that has taken one picture.
func still(f *film.Film, scene *render.Scene, o Order, t reveal.Micros) (*camera, error) {
	o.Format, o.Steady = anySize, true
	p, err := o.Plan(f)
	if err != nil {
		return nil, err
	}
	c, err := newCamera(f, scene, p)
	if err != nil {
		return nil, err
	}
	c.see(t)
	c.take()
	return c, nil
}
