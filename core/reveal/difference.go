package reveal

import (
	"encoding/json"
	"fmt"
)

// Differences says in words what is different in b from a: the reveal as a whole,
// steps, and cues, in the order of b.
func Differences(a, b *Reveal) []string {
	d := differ{lines: []string{}}
	d.whole(a, b)
	from := map[CueID]where{}
	for i := range a.Steps {
		for k := range a.Steps[i].Cues {
			from[a.Steps[i].Cues[k].ID] = where{i, k}
		}
	}
	d.steps(a, b)
	seen := map[CueID]bool{}
	for i := range b.Steps {
		for k := range b.Steps[i].Cues {
			c := &b.Steps[i].Cues[k]
			seen[c.ID] = true
			w, known := from[c.ID]
			switch {
			case !known:
				d.say("%s: a %s is new", stepName(b, i), c.Kind)
			case !same(a.Steps[w.step].Cues[w.cue], *c):
				d.say("%s: a %s is changed%s", stepName(b, i), c.Kind, changes(&a.Steps[w.step].Cues[w.cue], c))
			case a.Steps[w.step].ID != b.Steps[i].ID:
				d.say("%s: a %s has come from %s", stepName(b, i), c.Kind, stepName(a, w.step))
			}
		}
	}
	for i := range a.Steps {
		for k := range a.Steps[i].Cues {
			if c := &a.Steps[i].Cues[k]; !seen[c.ID] {
				d.say("%s: a %s is gone", stepName(a, i), c.Kind)
			}
		}
	}
	return d.lines
}

type where struct{ step, cue int }

type differ struct{ lines []string }

func (d *differ) say(format string, args ...any) {
	if len(d.lines) < maxLines {
		d.lines = append(d.lines, fmt.Sprintf(format, args...))
	}
}

func (d *differ) whole(a, b *Reveal) {
	if a.Title != b.Title {
		d.say("the title: %q instead of %q", b.Title, a.Title)
	}
	if a.Frame != b.Frame {
		d.say(
			"the frame: %d × %d at %d instead of %d × %d at %d",
			b.Frame.Width,
			b.Frame.Height,
			b.Frame.Rate,
			a.Frame.Width,
			a.Frame.Height,
			a.Frame.Rate,
		)
	}
	if !same(a.Opening, b.Opening) {
		d.say("the opening is changed")
	}
	if a.CaptionStyle() != b.CaptionStyle() {
		d.say("the captions are set in another way")
	}
}

// steps compares the steps without their cues.
func (d *differ) steps(a, b *Reveal) {
	last := -1
	for i := range b.Steps {
		k := a.FindStep(b.Steps[i].ID)
		if k < 0 {
			d.say("%s is new", stepName(b, i))
			continue
		}
		if k < last {
			d.say("%s stands in another place", stepName(b, i))
		}
		last = max(last, k)
		x, y := a.Steps[k], b.Steps[i]
		x.Cues, y.Cues = nil, nil
		if x.Title != y.Title {
			d.say("%s was called %q", stepName(b, i), x.Title)
			x.Title = y.Title
		}
		if x.Duration != y.Duration {
			d.say("%s lasts %.2f s instead of %.2f s", stepName(b, i), seconds(y.Duration), seconds(x.Duration))
			x.Duration = y.Duration
		}
		if !same(x, y) {
			d.say("%s: its words or settings are changed", stepName(b, i))
		}
	}
	for i := range a.Steps {
		if b.FindStep(a.Steps[i].ID) < 0 {
			d.say("%s is gone", stepName(a, i))
		}
	}
}

// changes says what of a cue is different, when that can be said in a word.
func changes(a, b *Cue) string {
	x, y := *a, *b
	switch x.Offset, y.Offset = 0, 0; {
	case same(x, y):
		return fmt.Sprintf(": it starts %.2f s %s", seconds(abs(b.Offset-a.Offset)), laterOrEarlier(b.Offset-a.Offset))
	case a.Duration != b.Duration:
		return fmt.Sprintf(": it lasts %.2f s instead of %.2f s", seconds(b.Duration), seconds(a.Duration))
	case len(a.Targets) != len(b.Targets):
		return fmt.Sprintf(": it acts on %d instead of %d", len(b.Targets), len(a.Targets))
	case a.Lost == "" && b.Lost != "":
		return ": nothing that it acts on is left; it is switched off"
	case a.Muted != b.Muted && b.Muted:
		return ": it is switched off"
	case a.Muted != b.Muted:
		return ": it is switched on"
	}
	return ""
}

func abs(t Micros) Micros { return max(t, -t) }

func laterOrEarlier(t Micros) string {
	if t > 0 {
		return "later"
	}
	return "earlier"
}

func seconds(t Micros) float64 { return float64(t) / float64(Second) }

func stepName(r *Reveal, i int) string { return fmt.Sprintf("step %d %q", i+1, r.Steps[i].Title) }

func same(a, b any) bool {
	x, err1 := json.Marshal(a)
	y, err2 := json.Marshal(b)
	return err1 == nil && err2 == nil && string(x) == string(y)
}
