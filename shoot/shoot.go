package shoot

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/render"
)

// PiecePath is where a piece of a film lies in its folder.
func (p *Plan) PiecePath(folder string, piece int) string {
	return filepath.Join(folder, fmt.Sprintf("%05d.piece", piece))
}

// Piece renders one piece of the film into its folder. Its bytes do not depend on who
// makes it, nor on what was made before.
func (p *Plan) Piece(ctx context.Context, f *film.Film, scene *render.Scene, folder string, piece int, progress func(done int)) error {
	c, err := newCamera(f, scene, p)
	if err != nil {
		return err
	}
	return p.piece(ctx, c, folder, piece, progress)
}

func (p *Plan) piece(ctx context.Context, c *camera, folder string, piece int, progress func(done int)) error {
	first := 0
	pieces := p.Pieces()
	for _, n := range pieces[:piece] {
		first += n
	}
	enc, err := encode.Start(ctx, p.PiecePath(folder, piece), encode.Settings{Format: p.Video, Width: p.Width, Height: p.Height, Rate: p.Rate, Purpose: p.Purpose})
	if err != nil {
		return err
	}
	w := startWriter(enc, frameBytes(p.Video, p.Width, p.Height))
	for k := range pieces[piece] {
		if ctx.Err() != nil {
			break
		}
		frame := <-w.free
		c.expose(p.exposure(first+k), frame)
		w.ready <- frame
		if w.failed() {
			break
		}
		if progress != nil {
			progress(k + 1)
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

// Join makes the film of its pieces. What the whole says of format, rate and pieces is
// filled in.
func (p *Plan) Join(ctx context.Context, f *film.Film, w encode.Whole, folder, out string) error {
	w.Format, w.Rate, w.Frames = p.Video, p.Rate, p.Pieces()
	w.Pieces = nil
	for i := range w.Frames {
		w.Pieces = append(w.Pieces, p.PiecePath(folder, i))
	}
	if w.Title == "" {
		w.Title = f.Reveal.Title
	}
	if w.Chapters == nil {
		w.Chapters = p.Chapters(f)
	}
	return encode.Join(ctx, &w, out)
}

func (p *Plan) film(ctx context.Context, f *film.Film, scene *render.Scene, w encode.Whole, out string, progress func(done, of int)) error {
	if err := encode.Check(ctx, p.Video); err != nil {
		return err
	}
	c, err := newCamera(f, scene, p)
	if err != nil {
		return err
	}
	folder, err := os.MkdirTemp(filepath.Dir(out), ".pieces-")
	if err != nil {
		return fmt.Errorf("the film cannot be written to %s: %w", filepath.Dir(out), err)
	}
	defer os.RemoveAll(folder)
	done := 0
	for i, n := range p.Pieces() {
		err := p.piece(ctx, c, folder, i, func(k int) {
			if progress != nil {
				progress(done+k, p.Frames)
			}
		})
		if err != nil {
			return err
		}
		done += n
	}
	return p.Join(ctx, f, w, folder, out)
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
	o.Format = "mov-png" // any size
	p, err := o.Plan(f)
	if err != nil {
		return nil, err
	}
	c, err := newCamera(f, scene, p)
	if err != nil {
		return nil, err
	}
	c.film.At(t, c.frame)
	c.take()
	return c, nil
}
