package proof

import (
	"fmt"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

// Words says what a finding is in one sentence: which parts, how deep and when, and by which cues.
func (f *Finding) Words(a *assembly.Assembly, r *reveal.Reveal) string {
	var by []string
	for _, id := range f.Cues {
		if step, cue := r.FindCue(id); cue >= 0 {
			by = append(by, fmt.Sprintf("“%s” of step %d", film.Label(&r.Steps[step].Cues[cue]), step+1))
		}
	}
	deep := fmt.Sprintf("%.1f mm", f.Depth)
	if f.Depth >= deepest {
		deep = fmt.Sprintf("more than %g mm", deepest)
	}
	return fmt.Sprintf("%s and %s are %s deeper in each other than at rest, from %.2f to %.2f s: %s.", called(a, f.Still), called(a, f.Moving), deep,
		float64(f.From)/1e6, float64(f.To)/1e6, strings.Join(by, ", "))
}

// called is a part's name; with its id where others have the same name.
func called(a *assembly.Assembly, id assembly.NodeID) string {
	name, same := string(id), 0
	for i := range a.Nodes {
		if a.Nodes[i].ID == id {
			name = a.Nodes[i].Name
		}
	}
	for i := range a.Nodes {
		if a.Nodes[i].Name == name {
			same++
		}
	}
	if same > 1 {
		return fmt.Sprintf("%s (%s)", name, id)
	}
	return name
}
