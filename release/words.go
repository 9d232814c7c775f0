package release

import (
	"fmt"
	"strings"

	"slowreveal/core/caption"
	"slowreveal/core/reveal"
	"slowreveal/formats/gltf"
	"slowreveal/render/lettering"
)

// Cues are the captions of the film, as it is asked for.
func (w *Work) Cues() []caption.Cue {
	var list []caption.Cue
	for _, c := range w.cut.Passages() {
		step := &c.Film.Reveal.Steps[c.Film.Reveal.FindStep(c.Step)]
		cue := caption.Cue{
			From:  c.From,
			To:    c.To,
			Title: step.Title,
			Text:  reveal.PlainProse(step.Instruction),
			Step:  step.ID,
		}
		if !w.Settings.NoNotices {
			cue.Notice, cue.Tools = step.Notice, step.Tools
		}
		list = append(list, cue)
	}
	return list
}

// warnings are the notices and tools of the steps in words, for players and archives that show what a file says of
// itself.
func (w *Work) warnings() string {
	var list []string
	for _, c := range w.Cues() {
		var said []string
		if c.Notice != nil {
			said = append(said, string(c.Notice.Signal)+": "+c.Notice.Text)
		}
		if len(c.Tools) > 0 {
			said = append(said, "Tools: "+strings.Join(c.Tools, ", "))
		}
		if len(said) > 0 {
			list = append(list, c.Title+" – "+strings.Join(said, " "))
		}
	}
	return strings.Join(list, " | ")
}

// Readable refuses words with signs that no font has, unless boxes will do: before anything is made.
func (w *Work) Readable() error {
	if w.Settings.Boxes {
		return nil
	}
	signs, err := w.Lacks()
	if err != nil || signs == "" {
		return err
	}
	shown := []rune(signs)
	return fmt.Errorf(
		"no font has the signs %s: give a font that has them, or let them be boxes",
		strings.Join(strings.Split(string(shown[:min(len(shown), 12)]), ""), " "),
	)
}

// Lacks returns the signs in the words of the film for which it has no font.
func (w *Work) Lacks() (string, error) {
	switch w.Settings.Kind {
	case GLB, Captions, Parts, Page: // words are words there
		return "", nil
	}
	words, err := lettering.NewCaptions(w.plan.Width, w.plan.Height, w.film.Reveal.CaptionStyle(), w.plan.Fonts...)
	if err != nil {
		return "", err
	}
	var all strings.Builder
	for _, r := range w.reels {
		if r.Card != nil {
			all.WriteString(r.Card.Title + r.Card.Text)
		}
		for i := range r.Film.Reveal.Steps {
			step := &r.Film.Reveal.Steps[i]
			if w.Settings.Captions || w.Settings.Kind == Manual || w.Settings.Kind == Sheet {
				all.WriteString(step.Title + reveal.PlainProse(step.Instruction))
			}
			if !w.Settings.NoNotices {
				all.WriteString(strings.Join(step.Tools, ""))
				if step.Notice != nil {
					all.WriteString(step.Notice.Text)
				}
			}
			for k := range step.Cues {
				if note := step.Cues[k].Note; note != nil {
					all.WriteString(note.Text)
				}
				if card := step.Cues[k].Card; card != nil {
					all.WriteString(card.Title + card.Text)
				}
			}
		}
	}
	if _, is := paperFormats[w.Settings.Kind]; is {
		all.WriteString(w.paperWords())
	}
	return string(words.Lacks(all.String())), nil
}

// Lost says in words what of the reveal the output's format cannot hold, "" for nothing.
func (w *Work) Lost() string {
	if w.Settings.Kind != GLB {
		return ""
	}
	return gltf.Lost(w.film)
}
