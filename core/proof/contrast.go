package proof

import (
	"fmt"
	"math"

	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

// enough is how much words contrast with what is behind them so that they can be read: WCAG 2.2, 1.4.3.
const enough = 4.5

// How often it is looked at words, and how often at most in one text.
const (
	betweenWords = reveal.Second / 2
	mostAtWords  = 12
)

// contrast finds words that lie on the picture without a plate, where they do not stand out from it.
func contrast(s *subject, limit float64) (list []Finding) {
	bare := !s.film.Reveal.CaptionStyle().Backing
	texts := s.texts(1)
	for i := range texts {
		x := &texts[i]
		if s.ctx.Err() != nil {
			return nil
		}
		if x.cue == "" && !bare || x.cue != "" && !s.clear(x.cue) {
			continue // on a plate or a veil, which are made so that words can be read on them
		}
		worst, at := math.Inf(1), reveal.Micros(0)
		step := max(betweenWords, (x.to-x.from)/mostAtWords)
		for t := x.from + step/2; t < x.to; t += step {
			if of, opacity := s.film.Caption(t); x.cue == "" &&
				(opacity < 1 || s.film.Schedule.Steps[of].Start != x.from) {
				continue // still those of the step before
			}
			if ratio := s.eyes.Contrast(s.film, s.at(t)); ratio > 0 && ratio < worst {
				worst, at = ratio, t
			}
		}
		if worst >= limit {
			continue
		}
		says := fmt.Sprintf(
			"%s lie on the picture and do not stand out from it at %s: their contrast is %.1f : 1, and %.1f : 1 is needed.",
			x.what,
			seconds(at),
			worst,
			limit,
		)
		f := x.finding(s, says, limit-worst)
		f.At = at
		list = append(list, f)
	}
	return list
}

// clear reports whether a cue is a card that lies on the picture.
func (s *subject) clear(id reveal.CueID) bool {
	step, k := s.film.Reveal.FindCue(id)
	card := s.film.Reveal.Steps[step].Cues[k].Card
	return card != nil && card.Clear
}

// onPlates has the words stand on a plate, or a card on a veil.
func (m *mender) onPlates(f *Finding) []Mend {
	if len(f.Cues) == 0 {
		style := m.doc.CaptionStyle()
		style.Backing = true
		return []Mend{
			{"Lay a plate under the words of all steps", edit.Command{Op: edit.SetCaptions, Captions: &style}},
		}
	}
	c := m.cue(f.Cues[0])
	if c == nil || c.Card == nil {
		return nil
	}
	changed := clonedCue(c)
	changed.Card.Clear = false
	return []Mend{{"Lay paper under the card", edit.Command{Op: edit.SetCue, Cue: changed}}}
}

// elsewhere has the words of steps stand in another place.
func (m *mender) elsewhere() (list []Mend) {
	own := m.doc.CaptionStyle()
	for _, p := range []struct {
		place reveal.Place
		says  string
	}{
		{reveal.LowerLeft, "Words at the lower left"}, {reveal.UpperLeft, "Words at the upper left"},
		{reveal.LowerMiddle, "Words in the middle below"},
	} {
		if p.place != own.Place {
			style := own
			style.Place = p.place
			list = append(list, Mend{p.says, edit.Command{Op: edit.SetCaptions, Captions: &style}})
		}
	}
	return list
}

// under marks the pixels of the eyes' picture that words lie on.
func (s *subject) under(fr *film.Frame, words []bool) []bool {
	width, height := s.eyes.Size()
	if words == nil {
		words = make([]bool, width*height)
	}
	clear(words)
	for _, b := range s.eyes.Covered(s.film, fr) {
		left, right := int(b.Left*float64(width)+0.5), int(b.Right*float64(width)+0.5)
		for y := max(0, int(b.Top*float64(height)+0.5)); y < min(height, int(b.Bottom*float64(height)+0.5)); y++ {
			for x := max(0, left); x < min(width, right); x++ {
				words[y*width+x] = true
			}
		}
	}
	return words
}
