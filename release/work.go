package release

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"syscall"

	"slowreveal/core/assembly"
	"slowreveal/core/caption"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/timecode"
	"slowreveal/encode"
	"slowreveal/formats/gltf"
	"slowreveal/paper"
	"slowreveal/render"
	"slowreveal/sequence"
)

// Work is an output, worked out: what it is made of and in which segments.
type Work struct {
	Settings  Settings
	Origin    Origin // said by what is made
	film      *film.Film
	model     *product.Model
	doc       *reveal.Reveal
	variant   *assembly.Variant  // that it shows; nil for the whole assembly
	at        []reveal.Micros    // of stills and drawings
	plan      *sequence.Plan     // of the output's own reveal
	cut       *sequence.Sequence // with the reveals that follow
	reels     []*reel
	preparing sync.Mutex  // see ready
	first     *paper.Page // of what was put on paper
	logo      []byte      // the logo's file, for pages
}

// clip is a reveal of a film and the model that it is of.
type reel struct {
	sequence.Clip
	model *product.Model
	doc   *reveal.Reveal // as it was written: the film's has its twins resolved
}

// Reveals finds a reveal that is to be joined, and the model that it is of.
type Reveals func(id string) (*product.Model, *reveal.Reveal, error)

// Plan checks the settings against a reveal and works out what is to be done. Models'
// shapes are needed only for making it. find may be nil where no other reveal follows.
func Plan(s Settings, m *product.Model, doc *reveal.Reveal, find Reveals) (*Work, error) {
	if err := s.fill(); err != nil {
		return nil, err
	}
	m, doc, shown, err := m.In(doc, s.Variant)
	if err != nil {
		return nil, err
	}
	s.say(shown)
	w := &Work{Settings: s, film: film.Compile(m.Assembly, doc), model: m, doc: doc, variant: shown}
	o, err := s.order()
	if err != nil {
		return nil, err
	}
	if w.plan, err = o.Plan(w.film); err != nil {
		return nil, err
	}
	if err := w.join(o, find); err != nil {
		return nil, err
	}
	if s.Poster != nil && (*s.Poster < 0 || *s.Poster > w.cut.Duration()) {
		return nil, fmt.Errorf(
			"the poster's moment %.2f s does not lie within the film's %.2f s",
			float64(*s.Poster)/1e6,
			float64(w.cut.Duration())/1e6,
		)
	}
	for _, t := range s.At {
		if t < 0 || t > w.film.Duration() {
			return nil, fmt.Errorf(
				"the moment %.2f s does not lie within the reveal's %.2f s",
				float64(t)/1e6,
				float64(w.film.Duration())/1e6,
			)
		}
	}
	w.at = w.stillTimes()
	if t := s.Strip; t != nil && t.From+t.Over > w.film.Duration() {
		return nil, fmt.Errorf(
			"the strip goes on to %.2f s, the reveal ends at %.2f s",
			float64(t.From+t.Over)/1e6,
			float64(w.film.Duration())/1e6,
		)
	}
	if s.Strip != nil && w.plan.Width*s.Strip.Count > maxStripWidth {
		return nil, fmt.Errorf(
			"%d pictures of %d pixels beside one another are wider than %d: make them smaller",
			s.Strip.Count, w.plan.Width, maxStripWidth,
		)
	}
	if len(w.at) > MaxStills {
		return nil, fmt.Errorf("%d stills at once are too many; %d are taken", len(w.at), MaxStills)
	}
	w.Settings.Width, w.Settings.Height, w.Settings.Rate = w.plan.Width, w.plan.Height, w.plan.Order.Rate
	if len(s.Layers) > 0 && s.Kind == Frames && w.plan.Frames*len(s.Layers) > sequence.MaxFrames {
		return nil, fmt.Errorf("%d frames in %d layers are too many", w.plan.Frames, len(s.Layers))
	}
	return w, nil
}

// stillTimes are the moments of stills and drawings, in order.
func (w *Work) stillTimes() []reveal.Micros {
	if t := w.Settings.Strip; t != nil {
		return t.times()
	}
	at := slices.Clone(w.Settings.At)
	if w.Settings.Ends {
		at = append(at, w.film.Ends()...)
		slices.Sort(at)
		at = slices.Compact(at)
	}
	if len(at) == 0 && (w.Settings.Kind == Stills || w.Settings.Kind == Lines) {
		at = []reveal.Micros{w.film.Duration()}
	}
	return at
}

// join adds the reveals that follow.
func (w *Work) join(o sequence.Order, find Reveals) (err error) {
	s := &w.Settings
	w.reels = []*reel{{sequence.Clip{Plan: w.plan, Film: w.film, Card: s.Card}, w.model, w.doc}}
	for i, then := range s.Then {
		m, doc := w.model, w.doc
		if then.Reveal != "" {
			if find == nil {
				return fmt.Errorf("the reveal %q cannot be found", then.Reveal)
			}
			if m, doc, err = find(then.Reveal); err != nil {
				return fmt.Errorf("reveal %d of the film is gone: take it out (%w)", i+2, err)
			}
			if m, doc, _, err = m.In(doc, s.Variant); err != nil {
				return err
			}
		}
		q := o
		q.Reverse = then.Reverse
		if then.Reveal != "" { // the same one again shows the same of itself
			q.From, q.To, q.Steps = 0, 0, nil
		}
		q.Width, q.Height, q.Rate = w.plan.Width, w.plan.Height, w.plan.Order.Rate
		f := film.Compile(m.Assembly, doc)
		p, err := q.Plan(f)
		if err != nil {
			return fmt.Errorf("%s: %w", doc.Title, err)
		}
		w.reels = append(w.reels, &reel{sequence.Clip{Plan: p, Film: f, Card: then.Card}, m, doc})
	}
	list := make([]*sequence.Clip, len(w.reels))
	for i, r := range w.reels {
		list[i] = &r.Clip
	}
	w.cut, err = sequence.NewSequence(list, s.CrossFade)
	return err
}

// Threads bounds the threads of each segment; 0 is one for each processor.
func (w *Work) Threads(n int) { w.plan.Threads = n }

// Segments returns how many frames each segment has.
func (w *Work) Segments() []int {
	switch w.Settings.Kind {
	case Film, Frames:
		return w.cut.Segments()
	case Stills:
		list := make([]int, len(w.at))
		for i := range list {
			list[i] = 1
		}
		return list
	}
	return []int{1}
}

// Frames is how many frames there are in all.
func (w *Work) Frames() int {
	n := 0
	for _, k := range w.Segments() {
		n += k
	}
	return n
}

// Length is how long the film lasts.
func (w *Work) Length() reveal.Micros { return w.cut.Duration() }

// Exposures is of how many pictures a frame in which something moves is the mean.
func (w *Work) Exposures() int { return w.plan.Exposures() }

// Rate is how many frames a second it has.
func (w *Work) Rate() timecode.Rate { return w.plan.Rate }

// Extension is that of the finished file, Media its MIME type.
func (w *Work) Extension() string { extension, _ := w.file(); return extension }

// Media is the finished file's MIME type.
func (w *Work) Media() string { _, media := w.file(); return media }

func (w *Work) file() (extension, media string) {
	switch s := &w.Settings; s.Kind {
	case Film:
		return w.plan.Video.Extension, w.plan.Video.Media
	case Stills:
		if (len(w.at) == 1 || s.Strip != nil) && len(s.Layers) == 1 {
			return pictures[s.Format].extension, pictures[s.Format].media
		}
		return "zip", "application/zip"
	case Frames:
		return "zip", "application/zip"
	case GLB:
		return "glb", "model/gltf-binary"
	case Lines, Sheet, Parts, Manual, Page:
		extension = s.Format
		if s.Kind == Lines && s.Format == "svg" && len(w.at) > 1 || s.Kind == Manual && s.Format == "html" ||
			s.Kind == Page && s.Format == "folder" {
			extension = "zip"
		}
		return extension, paperMedia[extension]
	}
	if w.Settings.Format == "srt" {
		return "srt", "application/x-subrip"
	}
	return "vtt", "text/vtt"
}

// Progress is told how many frames are done; last gives the last of them, as long as
// Progress has not returned.
type Progress func(done int, last func() image.Image)

// Segment makes one segment in the folder. Its bytes do not depend on who makes it.
func (w *Work) Segment(ctx context.Context, folder string, i int, progress Progress) error {
	switch w.Settings.Kind {
	case Film:
		if err := encode.Check(ctx, w.plan.Video); err != nil {
			return err
		}
		if err := w.ready(); err != nil {
			return err
		}
		return w.cut.Segment(ctx, folder, i, func(done int, last *render.Picture) {
			progress(done, func() image.Image { return last.Image() })
		})
	case Frames, Stills:
		if err := w.ready(); err != nil {
			return err
		}
		return w.pictures(ctx, folder, i, progress)
	}
	return nil // the last step makes it
}

// ready prepares the scenes of the clips: those of one model share one. Segments may be made at
// once.
func (w *Work) ready() (err error) {
	w.preparing.Lock()
	defer w.preparing.Unlock()
	scenes := map[*product.Model]*render.Scene{}
	for _, r := range w.reels {
		if r.Scene != nil {
			continue
		}
		if scenes[r.model] == nil {
			if scenes[r.model], err = render.NewScene(r.model.Assembly, r.model.Shapes); err != nil {
				return err
			}
		}
		r.Scene = scenes[r.model]
	}
	return nil
}

// Finish puts the segments together as the file out.
func (w *Work) Finish(ctx context.Context, folder, out string) error {
	switch s := &w.Settings; s.Kind {
	case Film:
		whole := encode.Whole{Title: s.Name, Author: s.Author, Comment: w.comment()}
		if s.Purpose == encode.Edit {
			whole.Timecode = timecode.SMPTE(0, w.plan.Rate)
		}
		if s.Sound != nil {
			whole.Sound = &s.Sound.Sound
		}
		if s.Poster != nil && w.plan.Video.Cover {
			whole.Poster = filepath.Join(folder, "poster.jpg")
			if err := w.writePoster(whole.Poster); err != nil {
				return err
			}
		}
		return w.cut.Join(ctx, whole, folder, out)
	case Frames, Stills:
		return w.pack(ctx, folder, out)
	case GLB: // what it lacks: Lost
		data, err := gltf.WriteFilm(ctx, w.model, w.film, w.MadeOf())
		if err != nil {
			return err
		}
		return write(out, data)
	case Lines, Sheet, Parts, Manual, Page:
		data, err := w.onPaper(ctx)
		if err != nil {
			return err
		}
		return write(out, data)
	}
	if w.Settings.Format == "srt" {
		return write(out, []byte(caption.SubRip(w.Cues())))
	}
	return write(out, []byte(caption.WebVTT(w.Cues())))
}

// write writes a file that appears when it is complete.
func write(out string, data []byte) error {
	f, err := os.CreateTemp(filepath.Dir(out), filepath.Base(out)+".*.part")
	if err != nil {
		return unwritten(out, err)
	}
	defer os.Remove(f.Name())
	_, err = f.Write(data)
	if e := f.Chmod(0o644); err == nil {
		err = e
	}
	if e := f.Close(); err == nil {
		err = e
	}
	if err == nil {
		err = os.Rename(f.Name(), out)
	}
	if err != nil {
		return unwritten(out, err)
	}
	return nil
}

// unwritten says why a file could not be written, and what to do about it.
func unwritten(what string, err error) error {
	if errors.Is(err, syscall.ENOSPC) {
		return fmt.Errorf("the disk is full: free some space and make the output again (writing %s)", what)
	}
	return fmt.Errorf("writing %s: %w", what, err)
}

// Make makes the whole output in this process. progress is told how many of how many
// frames are done.
func (w *Work) Make(ctx context.Context, out string, progress func(done, of int)) error {
	folder, err := os.MkdirTemp(filepath.Dir(out), ".segments-")
	if err != nil {
		return fmt.Errorf("%s cannot be written to: %w", filepath.Dir(out), err)
	}
	defer os.RemoveAll(folder)
	tell := func(done int) {
		if progress != nil {
			progress(done, w.Frames())
		}
	}
	if w.Settings.Kind == Film {
		if err := cmp.Or(encode.Check(ctx, w.plan.Video), w.ready()); err != nil {
			return err
		}
		if err := w.cut.AllSegments(ctx, folder, func(k int, _ *render.Picture) { tell(k) }); err != nil {
			return err
		}
		return w.Finish(ctx, folder, out)
	}
	done := 0
	for i, n := range w.Segments() {
		if err := w.Segment(ctx, folder, i, func(k int, _ func() image.Image) {
			tell(done + k)
		}); err != nil {
			return err
		}
		done += n
	}
	return w.Finish(ctx, folder, out)
}
