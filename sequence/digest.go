package sequence

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"hash"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Digest returns a hash of everything that is seen in a segment of the film, frame by frame: which shape stands where in
// which finish, cameras, lines and words. Two segments with the same digest that are made with the same settings by the
// same program have the same bytes. Names, ids, and what is not seen do not matter to it.
func (c *Sequence) Digest(segment int) string {
	first := 0
	segments := c.Segments()
	for _, n := range segments[:segment] {
		first += n
	}
	h := sha256.New()
	say(h, first, segments[segment], c.Plan.Width, c.Plan.Height, c.Plan.Rate, c.fade)
	for i := range c.clips {
		s := &c.clips[i]
		from, to := max(first, s.first), min(first+segments[segment], s.first+s.frames)
		if from >= to {
			continue
		}
		say(h, i, s.card, s.first, s.frames, from, to)
		if s.card {
			say(h, *s.clip.Card)
			continue
		}
		q := *s.clip.Plan
		q.Logo = c.Plan.Logo
		w := witness{film: q.framed(s.clip.Film), plan: &q, to: h}
		w.frame = w.film.NewFrame()
		say(h, w.film.Assembly.Bounds(), w.film.Reveal.CaptionStyle())
		for k := from; k < to; k++ {
			for _, at := range q.exposure(k - s.first) {
				w.see(at)
			}
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}

// StillDigest returns a hash of everything that is seen in the picture that Still makes, and of its size: two with the same
// digest that are made with the same other settings by the same program have the same bytes.
func StillDigest(f *film.Film, o Order, t reveal.Micros) (string, error) {
	o.Format, o.Steady = anySize, true
	p, err := o.Plan(f)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	w := witness{film: p.framed(f), plan: p, to: h}
	w.frame = w.film.NewFrame()
	say(h, p.Width, p.Height, w.film.Assembly.Bounds(), w.film.Reveal.CaptionStyle())
	w.see(instant{at: t, lens: -1})
	return hex.EncodeToString(h.Sum(nil)), nil
}

// say adds values to a hash, as JSON: numbers are written so that they read back to the bit.
func say(to hash.Hash, values ...any) {
	e := json.NewEncoder(to)
	for _, v := range values {
		if err := e.Encode(v); err != nil {
			panic(fmt.Sprintf("sequence: digesting %T: %v", v, err))
		}
	}
}

// witness tells what is seen at moments of a film.
type witness struct {
	film  *film.Film
	plan  *Plan
	frame *film.Frame
	to    hash.Hash
}

// seen is one part in a picture.
type seen struct {
	Shape    string
	Finishes []any
	World    space.Rigid
	Opacity  float64
	Tint     film.Tint
	Surface  film.Surface
}

func (w *witness) see(at instant) {
	w.film.At(at.at, w.frame)
	a, fr := w.film.Assembly, w.frame
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if !n.IsPart() || fr.Opacity[i] <= 0 {
			continue
		}
		s := seen{
			Shape:   a.Shapes[n.Shape].Hash,
			World:   fr.World[i],
			Opacity: fr.Opacity[i],
			Tint:    fr.Tint[i],
			Surface: fr.Surface[i],
		}
		for _, f := range n.Finishes {
			finish := a.Finishes[f]
			s.Finishes = append(s.Finishes, finish.Colour, finish.Opacity, finish.Metalness, finish.Roughness)
		}
		say(w.to, s)
	}
	camera := fr.Camera
	if w.plan.Eye != nil {
		camera = *w.plan.Eye
	}
	say(w.to, camera, fr.NoOcclusion, at.lens, fr.Flow, fr.Cards)
	for _, n := range fr.Notes {
		n.Node = "" // which part it is does not matter, but where
		say(w.to, n)
	}
	if w.plan.Captions || w.plan.Notices {
		step, opacity := w.film.Caption(fr.Time)
		say(w.to, opacity)
		if step >= 0 {
			s := &w.film.Reveal.Steps[step]
			say(w.to, s.Title, reveal.PlainProse(s.Instruction), s.Notice, s.Tools)
		}
	}
}
