package variant

import (
	"bytes"
	"encoding/json"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// Back makes a command that was made for what a variant shows one for the whole: what it leaves as the variant has it
// stays as it is written.
func Back(written, shown *reveal.Reveal, c edit.Command) edit.Command {
	if written == shown {
		return c
	}
	switch {
	case c.Op == edit.Batch:
		list := make([]edit.Command, len(c.Commands))
		for i := range list {
			list[i] = Back(written, shown, c.Commands[i])
		}
		c.Commands = list
	case c.Op == edit.SetCue && c.Cue != nil:
		s, k := written.FindCue(c.Cue.ID)
		o, l := shown.FindCue(c.Cue.ID)
		if s >= 0 && o >= 0 {
			cue := merged(written.Steps[s].Cues[k], shown.Steps[o].Cues[l], *c.Cue)
			c.Cue = &cue
		}
	case c.Op == edit.SetStep && c.Step != nil:
		if i, o := written.FindStep(c.Step.ID), shown.FindStep(c.Step.ID); i >= 0 && o >= 0 {
			was, seen := written.Steps[i], shown.Steps[o]
			was.Cues, seen.Cues = nil, nil
			step := merged(was, seen, *c.Step)
			c.Step = &step
		}
	case c.Op == edit.SetOpening && c.Opening != nil:
		opening := merged(written.Opening, shown.Opening, *c.Opening)
		c.Opening = &opening
	case c.Op == edit.SetTitle && c.Title != nil && *c.Title == shown.Title:
		title := written.Title
		c.Title = &title
	}
	return c
}

// merged is what was written with what has been changed in what was seen. Documents are compared field by field, as
// they are written; lists are taken as a whole.
func merged[T any](written, seen, changed T) (out T) {
	tree := func(v T) (t any) {
		text, err := json.Marshal(v)
		if err == nil {
			err = json.Unmarshal(text, &t)
		}
		if err != nil {
			panic("variant: a part of a document does not read back: " + err.Error())
		}
		return t
	}
	text, err := json.Marshal(merge(tree(written), tree(seen), tree(changed)))
	if err == nil {
		err = json.Unmarshal(text, &out)
	}
	if err != nil {
		panic("variant: a part of a document does not read back: " + err.Error())
	}
	return out
}

func merge(written, seen, changed any) any {
	if same(seen, changed) {
		return written
	}
	w, isMap := written.(map[string]any)
	s, seenMap := seen.(map[string]any)
	c, changedMap := changed.(map[string]any)
	if !isMap || !seenMap || !changedMap {
		return changed
	}
	out := map[string]any{}
	for k, v := range w {
		if _, was := s[k]; !was { // the variant does not show it: nobody can have changed it
			out[k] = v
		}
	}
	for k, v := range c {
		out[k] = merge(w[k], s[k], v)
		if out[k] == nil {
			delete(out, k)
		}
	}
	return out
}

func same(a, b any) bool {
	x, err := json.Marshal(a)
	y, other := json.Marshal(b)
	return err == nil && other == nil && bytes.Equal(x, y)
}
