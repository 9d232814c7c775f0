package release

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"slowreveal/core/caption"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/render"
	"slowreveal/shoot"
)

// Work is an output, worked out: what it is made of and in which pieces.
type Work struct {
	Settings Settings
	film     *film.Film
	model    *formats.Model
	plan     *shoot.Plan
	scene    *render.Scene
	threads  int
}

// Attachments finds the file of an attachment.
type Attachments func(id string) (path string, err error)

// Plan checks the settings against a reveal and works out what is to be done. The model's
// shapes are needed only for making it.
func Plan(s Settings, m *formats.Model, doc *reveal.Reveal) (*Work, error) {
	if err := s.fill(); err != nil {
		return nil, err
	}
	w := &Work{Settings: s, film: film.Compile(m.Assembly, doc), model: m}
	o, err := s.order()
	if err != nil {
		return nil, err
	}
	if w.plan, err = o.Plan(w.film); err != nil {
		return nil, err
	}
	for _, t := range s.At {
		if t < 0 || t > w.film.Duration() {
			return nil, fmt.Errorf("the moment %.2f s does not lie within the reveal's %.2f s", float64(t)/1e6, float64(w.film.Duration())/1e6)
		}
	}
	if s.Kind == Stills && len(s.At) == 0 {
		w.Settings.At = []reveal.Micros{w.film.Duration()}
	}
	w.Settings.Width, w.Settings.Height, w.Settings.Rate = w.plan.Width, w.plan.Height, w.plan.Order.Rate
	if len(s.Layers) > 0 && s.Kind == Frames && w.plan.Frames*len(s.Layers) > shoot.MaxFrames {
		return nil, fmt.Errorf("%d frames in %d layers are too many", w.plan.Frames, len(s.Layers))
	}
	return w, nil
}

// Threads bounds the threads of each piece; 0 is one for each processor.
func (w *Work) Threads(n int) { w.plan.Threads = n }

// Attach looks the attachments up that the settings name.
func (w *Work) Attach(find Attachments) error {
	if w.Settings.Sound != nil {
		path, err := find(w.Settings.Sound.Attachment)
		if err != nil {
			return fmt.Errorf("the sound of this output is gone: attach it again (%w)", err)
		}
		w.Settings.Sound.File = path
	}
	if w.Settings.Logo == nil {
		return nil
	}
	path, err := find(w.Settings.Logo.Attachment)
	if err != nil {
		return fmt.Errorf("the logo of this output is gone: attach it again (%w)", err)
	}
	f, err := os.Open(path)
	if err != nil {
		return fmt.Errorf("opening the logo: %w", err)
	}
	defer f.Close()
	w.plan.Logo, err = render.ReadLogo(f, w.Settings.Logo.Corner)
	return err
}

// Pieces returns how many frames each piece has.
func (w *Work) Pieces() []int {
	switch w.Settings.Kind {
	case Film, Frames:
		return w.plan.Pieces()
	case Stills:
		list := make([]int, len(w.Settings.At))
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
	for _, k := range w.Pieces() {
		n += k
	}
	return n
}

// Length is how long the film lasts.
func (w *Work) Length() reveal.Micros { return w.plan.Length() }

// Extension is that of the finished file, Media its MIME type.
func (w *Work) Extension() string { extension, _ := w.file(); return extension }

// Media is the finished file's MIME type.
func (w *Work) Media() string { _, media := w.file(); return media }

func (w *Work) file() (extension, media string) {
	switch s := &w.Settings; s.Kind {
	case Film:
		return w.plan.Video.Extension, w.plan.Video.Media
	case Stills:
		if len(s.At) == 1 && len(s.Layers) == 1 {
			return pictures[s.Format].extension, pictures[s.Format].media
		}
		return "zip", "application/zip"
	case Frames:
		return "zip", "application/zip"
	case GLB:
		return "glb", "model/gltf-binary"
	}
	if w.Settings.Format == "srt" {
		return "srt", "application/x-subrip"
	}
	return "vtt", "text/vtt"
}

// Cues are the captions of the film, as it is asked for.
func (w *Work) Cues() []caption.Cue {
	var list []caption.Cue
	for _, c := range w.plan.Passages(w.film) {
		step := &w.film.Reveal.Steps[w.film.Reveal.FindStep(c.Step)]
		list = append(list, caption.Cue{From: c.From, To: c.To, Title: step.Title, Text: reveal.PlainProse(step.Instruction)})
	}
	return list
}

// Piece makes one piece in the folder. Its bytes do not depend on who makes it.
func (w *Work) Piece(ctx context.Context, folder string, i int, progress func(done int)) error {
	switch w.Settings.Kind {
	case Film:
		if err := encode.Check(ctx, w.plan.Video); err != nil {
			return err
		}
		if err := w.ready(); err != nil {
			return err
		}
		return w.plan.Piece(ctx, w.film, w.scene, folder, i, progress)
	case Frames, Stills:
		if err := w.ready(); err != nil {
			return err
		}
		return w.pictures(ctx, folder, i, progress)
	}
	return nil // the last step makes it
}

func (w *Work) ready() (err error) {
	if w.scene == nil {
		w.scene, err = render.NewScene(w.model.Assembly, w.model.Shapes)
	}
	return err
}

// Finish puts the pieces together as the file out.
func (w *Work) Finish(ctx context.Context, folder, out string) error {
	switch w.Settings.Kind {
	case Film:
		whole := encode.Whole{Title: w.Settings.Name, Author: w.Settings.Author}
		if w.Settings.Sound != nil {
			whole.Sound = &w.Settings.Sound.Sound
		}
		return w.plan.Join(ctx, w.film, whole, folder, out)
	case Frames, Stills:
		return w.pack(ctx, folder, out)
	case GLB:
		data, err := gltf.WriteFilm(w.model, w.film)
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
		return fmt.Errorf("writing %s: %w", out, err)
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
		return fmt.Errorf("writing %s: %w", out, err)
	}
	return nil
}

// Make makes the whole output in this process. progress is told how many of how many
// frames are done.
func (w *Work) Make(ctx context.Context, out string, progress func(done, of int)) error {
	folder, err := os.MkdirTemp(filepath.Dir(out), ".pieces-")
	if err != nil {
		return fmt.Errorf("%s cannot be written to: %w", filepath.Dir(out), err)
	}
	defer os.RemoveAll(folder)
	done := 0
	for i, n := range w.Pieces() {
		if err := w.Piece(ctx, folder, i, func(k int) {
			if progress != nil {
				progress(done+k, w.Frames())
			}
		}); err != nil {
			return err
		}
		done += n
	}
	return w.Finish(ctx, folder, out)
}
