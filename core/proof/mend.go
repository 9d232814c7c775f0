package proof

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
)

// Mend is a change after which a finding is gone: it has been tried.
type Mend struct {
	Says    string       `json:"says"`
	Command edit.Command `json:"command"`
}

// mostMends is how many mends a finding offers, and mostTries how many are tried for one.
const (
	mostMends = 3
	mostTries = 14
)

// Mends looks for changes after which a finding is gone and nothing else goes wrong that the changed cues can do: they
// go into nothing that they did not go into before. The smallest is the first. eyes may be nil; then no mend is offered
// that has to be seen.
func Mends(
	ctx context.Context,
	f *film.Film,
	doc *reveal.Reveal,
	shapes []*solid.Shape,
	eyes Eyes,
	settings Settings,
	finding *Finding,
) ([]Mend, error) {
	m := &mender{ctx: ctx, subject: newSubject(ctx, f, shapes, eyes), doc: doc, settings: settings}
	if m.settings.Tolerance <= 0 {
		m.settings.Tolerance = Checks[0].LimitIn(f.Reveal)
	}
	m.subject.memory = settings.Memory
	m.subject.reads = checkOf("reading").LimitIn(f.Reveal)
	list := []Mend{}
	tried := map[string]bool{}
	for _, c := range m.candidates(finding) {
		if tried[c.Says] {
			continue
		}
		if len(tried) == mostTries || len(list) == mostMends {
			break
		}
		tried[c.Says] = true
		if m.helps(finding, c.Command) {
			list = append(list, c)
		}
		if err := ctx.Err(); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// Together does the first mends of the words that are too short, one for each step, as one edit, and tries it: nil
// where there are fewer than two, or where one of these findings stays.
func Together(
	ctx context.Context,
	a *assembly.Assembly,
	doc *reveal.Reveal,
	shapes []*solid.Shape,
	findings []Finding,
) *Mend {
	steps := map[reveal.StepID]*Finding{}
	var commands []edit.Command
	for i := range findings {
		f := &findings[i]
		if f.Check == "reading" && f.Accepted == "" && len(f.Mends) > 0 && steps[f.Step] == nil {
			steps[f.Step] = f
			commands = append(commands, f.Mends[0].Command)
		}
	}
	if len(commands) < 2 {
		return nil
	}
	all := &Mend{fmt.Sprintf("Do the same for all %d", len(commands)), edit.Command{Op: edit.Batch, Commands: commands}}
	changed := reveal.Clone(doc)
	if _, err := edit.Do(changed, a, all.Command); err != nil {
		return nil
	}
	s := newSubject(ctx, film.Compile(a, changed), shapes, nil)
	for _, found := range reading(s, checkOf("reading").LimitIn(doc)) {
		found.Check = "reading"
		if s.complete(&found); steps[found.Step] != nil && found.same(steps[found.Step]) {
			return nil
		}
	}
	return all
}

// mender tries changes of a document.
type mender struct {
	ctx      context.Context
	subject  *subject
	doc      *reveal.Reveal // with twins as they are
	settings Settings
	search   *search            // for interference, made when it is needed
	before   map[[2]int]float64 // what goes into what today, among what the finding's cues move
}

func checkOf(name string) *Check {
	return &Checks[slices.IndexFunc(Checks, func(c Check) bool { return c.Name == name })]
}

// helps reports whether a finding is gone after a change, and nothing new goes wrong.
func (m *mender) helps(f *Finding, c edit.Command) bool {
	doc := reveal.Clone(m.doc)
	if _, err := edit.Do(doc, m.subject.film.Assembly, c); err != nil {
		return false
	}
	changed := film.Compile(m.subject.film.Assembly, doc)
	s := newSubject(m.ctx, changed, m.subject.shapes, m.subject.eyes)
	s.reads, s.memory = m.subject.reads, m.subject.memory
	if check := checkOf(f.Check); check.find != nil {
		s.only = map[reveal.CueID]bool{}
		for _, id := range f.Cues {
			s.only[id] = true
		}
		if f.Check == "reading" || f.Check == "contrast" || f.Check == "ends" || len(f.Cues) == 0 {
			s.only = nil
		}
		if f.Check == "crowded" {
			s.during = f.Step
		}
		for _, found := range check.find(s, check.LimitIn(doc)) {
			found.Check = f.Check
			if s.complete(&found); found.same(f) {
				return false
			}
		}
	}
	moved := m.movedBy(f)
	if !slices.Contains([]string{"interference", "held", "pace"}, f.Check) || len(moved) == 0 {
		return true // such mends move nothing against anything else
	}
	if m.search == nil {
		if m.settings.Memory != nil {
			m.search = m.settings.Memory.search(m.subject.film, m.subject.shapes, m.settings)
		} else {
			m.search = newSearch(m.subject.film, m.subject.shapes, m.settings)
		}
	}
	if m.before == nil {
		m.before = m.overlaps(m.subject.film, func(a, b int) bool { return moved[a] || moved[b] })
	}
	own := [2]int{-1, -1}
	if len(f.Parts) == 2 {
		a, b := m.subject.index[f.Parts[0]], m.subject.index[f.Parts[1]]
		own = [2]int{min(a, b), max(a, b)}
	}
	// Most are told by the pair itself, most others by the first thing that is gone into anew.
	if m.goesInto(changed, func(a, b int) bool { return [2]int{a, b} == own }) ||
		m.goesInto(changed, func(a, b int) bool {
			_, known := m.before[[2]int{a, b}]
			return (moved[a] || moved[b]) && !known
		}) {
		return false
	}
	for pair, depth := range m.overlaps(changed, func(a, b int) bool { _, known := m.before[[2]int{a, b}]; return known && [2]int{a, b} != own }) {
		if depth > m.before[pair]+m.settings.Tolerance {
			return false
		}
	}
	return m.ctx.Err() == nil
}

// goesInto reports whether one of some pairs goes into one another.
func (m *mender) goesInto(f *film.Film, only func(a, b int) bool) bool {
	s := m.search.of(f, only)
	s.settings.any = true
	found, err := s.run(m.ctx)
	return err != nil || len(found.List) > 0
}

// same reports whether two findings of one check are about the same parts and cues.
func (f *Finding) same(o *Finding) bool {
	return f.Check == o.Check && slices.Equal(sorted(f.Cues), sorted(o.Cues)) &&
		(len(f.Cues) > 0 || slices.Equal(f.Parts, o.Parts) && f.Step == o.Step)
}

// movedBy are the parts that a finding's cues move.
func (m *mender) movedBy(f *Finding) map[int]bool {
	moved := map[int]bool{}
	for _, id := range f.Cues {
		if step, k := m.subject.film.Reveal.FindCue(id); k >= 0 {
			for _, part := range m.subject.of(m.subject.film.Reveal.Steps[step].Cues[k].Targets) {
				moved[part] = true
			}
		}
	}
	return moved
}

// overlaps are the pairs that go into one another, and how deep, among some.
func (m *mender) overlaps(f *film.Film, only func(a, b int) bool) map[[2]int]float64 {
	found, err := m.search.of(f, only).run(m.ctx)
	if err != nil {
		return nil
	}
	deep := map[[2]int]float64{}
	for _, o := range found.List {
		pair := [2]int{m.subject.index[o.Still], m.subject.index[o.Moving]}
		deep[pair] = max(deep[pair], o.Depth)
	}
	return deep
}

// candidates are changes that may help, the smallest first.
func (m *mender) candidates(f *Finding) (list []Mend) {
	switch f.Check {
	case "interference", "held":
		for _, id := range f.Cues {
			list = append(list, m.later(f, id)...)
			list = append(list, m.otherWays(f, id)...)
		}
	case "frame":
		return m.stepBack(f)
	case "hidden":
		if strings.Contains(f.Says, underWords) {
			list = m.elsewhere()
		}
		return append(list, m.otherEye(f, m.subject.of(f.Parts), (f.From+f.To)/2)...)
	case "crowded":
		return m.otherEye(f, m.subject.of(f.Parts))
	case "contrast":
		return m.onPlates(f)
	case "reading":
		return m.longer(f)
	case "pace":
		return m.slower(f)
	case "camera":
		if len(f.Parts) > 0 { // it goes through them
			moved := slices.Sorted(maps.Keys(m.subject.movedIn(m.subject.spanAt(f.At))))
			return m.otherEye(f, moved, f.To)
		}
		return m.slower(f)
	case "ends":
		return m.withoutFlow(f)
	}
	return list
}

// cue is a cue of the document as it stands there.
func (m *mender) cue(id reveal.CueID) *reveal.Cue {
	step, k := m.doc.FindCue(id)
	if k < 0 {
		return nil
	}
	return &m.doc.Steps[step].Cues[k]
}

var axes = []struct {
	name string
	way  [3]float64
}{{"+X", [3]float64{1, 0, 0}}, {"−X", [3]float64{-1, 0, 0}}, {"+Y", [3]float64{0, 1, 0}}, {"−Y", [3]float64{0, -1, 0}}, {"+Z", [3]float64{0, 0, 1}}, {"−Z", [3]float64{0, 0, -1}}}

// otherWays go less far, or another way: for a pull, and for the last leg of a route.
func (m *mender) otherWays(f *Finding, id reveal.CueID) (list []Mend) {
	c := m.cue(id)
	if c == nil || c.Twin != "" || c.Pull == nil && c.Route == nil {
		return nil
	}
	set := func(says string, change func(c *reveal.Cue)) {
		changed := clonedCue(c)
		change(changed)
		list = append(list, Mend{says, edit.Command{Op: edit.SetCue, Cue: changed}})
	}
	if c.Pull != nil {
		far := math.Abs(c.Pull.Distance)
		if short := m.until(f, c); short >= 0.3*far {
			set(
				fmt.Sprintf("Go %.0f mm instead of %.0f", short, far),
				func(c *reveal.Cue) { c.Pull.Distance = math.Copysign(short, c.Pull.Distance) },
			)
		}
		for _, a := range axes {
			set(fmt.Sprintf("Pull along %s of %s, %.0f mm", a.name, axesWords(c.Pull.Axes), far), func(c *reveal.Cue) {
				c.Pull.Along, c.Pull.Distance, c.Pull.Secondary = a.way, far, nil
			})
		}
		return list
	}
	last := len(c.Route.Legs) - 1
	for _, a := range axes {
		set(fmt.Sprintf("Go along %s of %s in the end", a.name, axesWords(c.Route.Axes)), func(c *reveal.Cue) {
			leg := &c.Route.Legs[last]
			leg.Along, leg.Distance = a.way, math.Abs(leg.Distance)
		})
	}
	return list
}

func clonedCue(c *reveal.Cue) *reveal.Cue {
	r := reveal.Clone(&reveal.Reveal{Format: reveal.Format, Steps: []reveal.Step{{ID: "x", Cues: []reveal.Cue{*c}}}})
	return &r.Steps[0].Cues[0]
}

func (m *mender) withoutFlow(f *Finding) []Mend {
	if len(f.Cues) != 1 {
		return nil
	}
	c := m.cue(f.Cues[0])
	if c == nil || c.Flow == nil {
		return nil
	}
	changed := clonedCue(c)
	changed.Flow = nil
	return []Mend{{"Draw no flow line", edit.Command{Op: edit.SetCue, Cue: changed}}}
}
