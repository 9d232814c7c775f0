package proof

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/caption"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

// text is something to be read, from when to when it stands.
type text struct {
	what     string // "the words of step 3"
	words    string
	from, to reveal.Micros
	need     float64 // µs that it takes to read
	left     float64 // µs that are still to be read
	cue      reveal.CueID
	nodes    []assembly.NodeID
}

// reading finds texts for which there is too little time: alone, or because others stand at the same time. One reads
// one text at a time; what goes first is read first, which is the order in which most can be read (earliest deadline
// first: Horn 1974, from memory).
func reading(s *subject, limit float64) (list []Finding) {
	texts := s.texts(limit)
	for i := range texts {
		x := &texts[i]
		if length := float64(x.to - x.from); x.need > length {
			list = append(
				list,
				x.finding(
					s,
					fmt.Sprintf(
						"%s take %.1f s to read and stand for %.1f s: “%s”.",
						x.what,
						x.need/1e6,
						length/1e6,
						short(x.words),
					),
					(x.need-length)/1e6,
				),
			)
			x.left = 0 // said already, and in nobody's way
		}
	}
	moments := make([]float64, 0, 2*len(texts))
	for i := range texts {
		moments = append(moments, float64(texts[i].from), float64(texts[i].to))
	}
	slices.Sort(moments)
	moments = slices.Compact(moments)
	for k := 0; k+1 < len(moments); k++ {
		now, next := moments[k], moments[k+1]
		for now < next {
			x := soonest(texts, now)
			if x == nil {
				break
			}
			reads := math.Min(x.left, next-now)
			x.left, now = x.left-reads, now+reads
		}
		for i := range texts {
			x := &texts[i]
			if float64(x.to) != next || x.left <= 0 {
				continue
			}
			beside := ""
			for k := range texts {
				if o := &texts[k]; k != i && o.from < x.to && x.from < o.to {
					beside = o.what
				}
			}
			list = append(
				list,
				x.finding(
					s,
					fmt.Sprintf(
						"%s cannot be read to the end beside %s: %.1f s are missing: “%s”.",
						x.what,
						beside,
						x.left/1e6,
						short(x.words),
					),
					x.left/1e6,
				),
			)
		}
	}
	return list
}

// soonest is the text that stands at a time, is not read yet, and goes first.
func soonest(texts []text, now float64) (best *text) {
	for i := range texts {
		x := &texts[i]
		if float64(x.from) <= now && float64(x.to) > now && x.left > 0 && (best == nil || x.to < best.to) {
			best = x
		}
	}
	return best
}

func (x *text) finding(s *subject, says string, worse float64) Finding {
	f := Finding{Says: says, Parts: x.nodes, From: x.from, To: x.to, At: (x.from + x.to) / 2, Worse: worse}
	if x.cue != "" {
		f.Cues = []reveal.CueID{x.cue}
	}
	return f
}

// texts are all words of a film, in the order in which they come.
func (s *subject) texts(limit float64) (list []text) {
	add := func(x text) {
		x.need = float64(caption.Needs(x.words)) * caption.MaxCharacters / limit
		if x.left = x.need; x.to > x.from && x.need > 0 {
			list = append(list, x)
		}
	}
	r := s.film.Reveal
	for i := range s.film.Schedule.Steps {
		span := &s.film.Schedule.Steps[i]
		if !span.Muted {
			add(
				text{
					what:  fmt.Sprintf("The words of step %d", i+1),
					words: s.said(&r.Steps[i]),
					from:  span.Start,
					to:    span.Start + span.Duration,
				},
			)
		}
	}
	for _, b := range s.bars(func(b *film.Bar) bool { return !b.Retraced && b.Kind.Words() }) {
		step, k := r.FindCue(b.Cue)
		c := &r.Steps[step].Cues[k]
		x := text{from: b.Start, to: b.Start + b.Duration, cue: b.Cue, nodes: b.Targets}
		if c.Note != nil {
			x.what, x.words = "The words of a note", c.Note.Text
		} else {
			x.what, x.words = "The words of a card", c.Card.Title+"\n"+c.Card.Text
		}
		add(x)
	}
	slices.SortStableFunc(list, func(a, b text) int { return cmp.Compare(a.from, b.from) })
	return list
}

// said are the words of a step that are shown.
func (s *subject) said(step *reveal.Step) string {
	c := caption.Cue{Notice: step.Notice, Tools: step.Tools}
	switch s.film.Reveal.CaptionStyle().Show {
	case reveal.AllWords:
		c.Title, c.Text = step.Title, reveal.PlainProse(step.Instruction)
	case reveal.TitleOnly:
		c.Title = step.Title
	}
	return c.Words()
}

// short is the beginning of a text.
func short(words string) string {
	r := []rune(strings.ReplaceAll(words, "\n", ". "))
	if len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return string(r)
}
