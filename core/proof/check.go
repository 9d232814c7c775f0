package proof

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	"slices"
	"sync"

	"github.com/sourcegraph/conc"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Level is how grave a finding is.
type Level string

// The levels, from the gravest to the mildest. A film with a fault should not be sent.
const (
	Fault   Level = "fault"
	Warning Level = "warning"
	Hint    Level = "hint"
)

// Grave orders levels, the gravest first.
func (l Level) Grave() int { return slices.Index([]Level{Fault, Warning, Hint}, l) }

// Check is something that is looked for in a film.
type Check struct {
	Name  string `json:"name"`
	Title string `json:"title"`
	// Finds says in a sentence what the check finds.
	Finds string `json:"finds"`
	Level Level  `json:"level"`
	// Limit is from where on something is a finding. A reveal may set another one (reveal.Proof). It has no unit where
	// the limit is that of interference.
	Limit Limit `json:"limit"`

	find  func(s *subject, limit float64) []Finding
	looks bool // it has to see the picture
}

// Limit is the number of a check that can be set.
type Limit struct {
	Of    string  `json:"of"` // what it limits
	Unit  string  `json:"unit"`
	Usual float64 `json:"usual"`
	Least float64 `json:"least"`
	Most  float64 `json:"most"`
}

// Checks are all checks, in the order in which they are told of.
var Checks = []Check{
	{"interference", "Parts go into one another", "Two parts are deeper in one another than they are at rest.", Fault,
		Limit{"How much deeper than at rest parts may lie in one another", "mm", Tolerance, 0.01, 10}, nil, false},
	{
		"held",
		"A part leaves too early",
		"A part leaves while a fastener holds it, or another part lies in its way, that leaves only later.",
		Fault,
		Limit{},
		nil,
		false,
	},
	{"frame", "Outside the frame", "What a cue is about leaves the frame while it runs.", Warning,
		Limit{"How far it may reach beyond the frame's edge", "% of the frame's height", 1, 0, 50}, framed, false},
	{"hidden", "Hidden", "Other parts or words hide what moves, or it is too small to be seen.", Warning,
		Limit{"How much of what moves is to be seen at least", "%", 25, 1, 90}, hidden, true},
	{
		"reading",
		"Too short to read",
		"Words stand for less time than they take to read, or others come before they are read.",
		Warning,
		Limit{"How fast one reads", "characters a second", 20, 8, 40},
		reading,
		false,
	},
	{"contrast", "Words on the picture", "Words without a plate lie on what they cannot be read against.", Warning,
		Limit{"How much words must contrast with what is behind them", ": 1", enough, 1, 21}, contrast, true},
	{"camera", "Camera", "The camera goes through a part, turns too fast, or turns back at once.", Warning,
		Limit{"How fast it may turn", "° a second", 60, 5, 360}, cameraWork, false},
	{
		"pace",
		"Pace",
		"Something moves faster than the eye follows, a movement is over before it is seen, or nothing happens for long.",
		Hint,
		Limit{"How far something may move in a second", "frame heights", 1, 0.1, 10},
		pace,
		false,
	},
	{
		"ends",
		"Loose ends",
		"A retrace does not come home, a part stays alone where all its neighbours have left, or a flow line has no part.",
		Warning,
		Limit{"How far from home a part may end", "mm", 0.5, 0.01, 100},
		ends,
		false,
	},
	{
		"driven",
		"Driven joints",
		"A joint is driven beyond its limits, or to where a loop cannot be closed, or something contradicts it.",
		Warning,
		Limit{"How far beyond its limits a joint may go", "° or mm", 0.01, 0, 360},
		driven,
		false,
	},
	{"crowded", "Crowded", "Parts that have been taken off cover one another at the end of a step.", Hint,
		Limit{"How much of a part others may cover", "%", 60, 5, 100}, crowded, true},
}

// LimitIn is the limit of the check in a reveal.
func (c *Check) LimitIn(r *reveal.Reveal) float64 {
	if r.Proof != nil {
		if v, ok := r.Proof.Limits[c.Name]; ok {
			return max(c.Limit.Least, min(v, c.Limit.Most))
		}
	}
	return c.Limit.Usual
}

// Finding is something that is wrong with a film, or may be.
type Finding struct {
	// Key names it in its version of the reveal.
	Key   string `json:"key"`
	Check string `json:"check"`
	Level Level  `json:"level"`
	// Says is what is wrong, in a sentence.
	Says string `json:"says"`
	// Parts are the parts or subassemblies that it is about, and Cues those that are at fault.
	Parts []assembly.NodeID `json:"parts"`
	Cues  []reveal.CueID    `json:"cues"`
	// Step is the one in which it begins. From … To is its time, At its worst moment, µs of the film.
	Step reveal.StepID `json:"step"`
	From reveal.Micros `json:"from"`
	To   reveal.Micros `json:"to"`
	At   reveal.Micros `json:"at"`
	// Worse tells how bad it is, beside other findings of the same rule: the more, the worse.
	Worse float64 `json:"worse"`
	// Depth is how deep, mm, parts are in one another, and Place where, in the world, mm.
	Depth float64     `json:"depth,omitempty"`
	Place *space.Vec3 `json:"place,omitempty"`
	// Mends are changes after which it is gone, the smallest first.
	Mends []Mend `json:"mends,omitempty"`
	// Accepted is why the author lets it be, empty for an open one.
	Accepted string `json:"accepted,omitempty"`
}

// Outcome is what was found, what was looked at, and what was not.
type Outcome struct {
	Findings []Finding `json:"findings"`
	// Passed are pairs of parts that were not looked at, Beyond how many more were not.
	Passed []Passed `json:"passed,omitempty"`
	Beyond int      `json:"beyond,omitempty"`
	// Pairs is how many pairs of parts move against each other and come near, of All.
	Pairs int `json:"pairs"`
	All   int `json:"all"`
	// Duration is the film's, µs.
	Duration reveal.Micros `json:"duration"`
	// Left are the names of checks that were left out.
	Left []string `json:"left,omitempty"`
	// Together gives all words that are too short more time, as one edit; nil where that was not tried, or does not do.
	Together *Mend `json:"together,omitempty"`
	// Mended says that mends have been looked for.
	Mended bool `json:"mended,omitempty"`
}

// Unmended is the outcome without its mends.
func (r *Outcome) Unmended() Outcome {
	o := *r
	o.Together, o.Mended = nil, false
	o.Findings = slices.Clone(o.Findings)
	for i := range o.Findings {
		o.Findings[i].Mends = nil
	}
	return o
}

// Open counts the findings of a level that are not accepted.
func (r *Outcome) Open(l Level) (n int) {
	for i := range r.Findings {
		if f := &r.Findings[i]; f.Level == l && f.Accepted == "" {
			n++
		}
	}
	return n
}

// Eyes see what a frame of the film shows. They are for one goroutine.
type Eyes interface {
	// Owners tells for each pixel of a small picture of the frame which node is seen there, row by row from the top: −1
	// where there is none. Nodes that solid names are drawn as solid, the others as they are; what is see-through hides
	// nothing. Where alone is set only those are drawn. The list is used until the next call.
	Nodes(fr *film.Frame, solid []bool, alone bool) []int32
	// Size is the picture's.
	Size() (width, height int)
	// Covered are the places of a frame of a film that words lie on, those of steps and of notes.
	Covered(f *film.Film, fr *film.Frame) []film.Area
	// Contrast is the ratio, 1 to 21, in which letters of steps and cards contrast with what is behind them in a frame
	// of a film (WCAG 2.2); 0 where there are none.
	Contrast(f *film.Film, fr *film.Frame) float64
}

// Run looks for everything that is wrong with a film. Without eyes the checks that have to see the picture are left
// out, and named so. progress, which may be nil, is told how much is done, 0…1, and after each check what has been
// found so far; otherwise found is nil. An error is returned only where ctx has ended.
func Run(
	ctx context.Context,
	f *film.Film,
	shapes []*solid.Shape,
	eyes Eyes,
	settings Settings,
	progress func(done float64, found *Outcome),
) (Outcome, error) {
	if progress == nil {
		progress = func(float64, *Outcome) {}
	}
	if settings.Tolerance <= 0 {
		settings.Tolerance = Checks[0].LimitIn(f.Reveal)
	}
	looked := &advance{tell: progress}
	settings.progress = looked.interference
	ctx, end := context.WithCancel(ctx)
	defer end()
	// What has to see the picture does so with one pair of eyes, while pairs of parts are looked at beside it.
	answers := make(chan Overlaps, 1)
	var beside conc.WaitGroup // whose panics come back to who waits
	beside.Go(func() {
		defer close(answers)
		if !settings.looksAt("interference") {
			return
		}
		if overlaps, err := Interference(ctx, f, shapes, settings); err == nil {
			answers <- overlaps
		}
	})
	r := &run{subject: newSubject(ctx, f, shapes, eyes)}
	r.subject.reads, r.subject.memory = checkOf("reading").LimitIn(f.Reveal), settings.Memory
	r.report = Outcome{Findings: []Finding{}, Duration: f.Duration()}
	told := false
	take := func(o Overlaps, found bool) {
		if found {
			r.take(&o)
			told = true
		}
	}
	checks := inTurn(eyes != nil, settings, &r.report)
	for i, c := range checks {
		r.look(c)
		if ctx.Err() != nil {
			break
		}
		select {
		case o, found := <-answers:
			take(o, found)
		default:
		}
		looked.others(float64(i+1)/float64(len(checks)), r.subject.sorted(&r.report))
	}
	beside.Wait()
	if err := ctx.Err(); err != nil {
		return Outcome{}, err
	}
	if !told {
		o, found := <-answers
		take(o, found)
	}
	return *r.subject.sorted(&r.report), nil
}

// inTurn are the checks beside interference in the order in which they are looked at: those last that have to see the
// picture, as these take long. Without eyes they are noted as left out.
func inTurn(seeing bool, settings Settings, report *Outcome) (checks []*Check) {
	for _, looks := range [2]bool{false, true} {
		for i := range Checks {
			switch c := &Checks[i]; {
			case c.find == nil || c.looks != looks || !settings.looksAt(c.Name):
			case looks && !seeing:
				report.Left = append(report.Left, c.Name)
			default:
				checks = append(checks, c)
			}
		}
	}
	return checks
}

func (s *Settings) looksAt(check string) bool {
	return len(s.Checks) == 0 || slices.Contains(s.Checks, check)
}

// run is one look at a film.
type run struct {
	subject *subject
	report  Outcome
}

// look adds what a check finds.
func (r *run) look(c *Check) {
	for _, found := range c.find(r.subject, c.LimitIn(r.subject.film.Reveal)) {
		found.Check = c.Name
		found.Level = cmp.Or(found.Level, c.Level)
		r.subject.complete(&found)
		r.report.Findings = append(r.report.Findings, found)
	}
}

// take adds where parts go into one another.
func (r *run) take(o *Overlaps) {
	r.report.Passed, r.report.Beyond, r.report.Pairs, r.report.All = o.Passed, o.Beyond, o.Pairs, o.All
	for i := range o.List {
		found := r.subject.told(&o.List[i])
		r.subject.complete(&found)
		r.report.Findings = append(r.report.Findings, found)
	}
}

// advance adds up how far the checks have come, which are looked at side by side.
type advance struct {
	sync.Mutex
	tell func(done float64, found *Outcome)
	done [2]float64 // of interference, of all others
}

func (a *advance) interference(done float64) { a.report(0, done, nil) }

func (a *advance) others(done float64, found *Outcome) { a.report(1, done, found) }

func (a *advance) report(which int, done float64, found *Outcome) {
	const share = 0.6 // of the time that interference takes
	a.Lock()
	defer a.Unlock()
	a.done[which] = max(a.done[which], done)
	a.tell(share*a.done[0]+(1-share)*a.done[1], found)
}

// sorted is an outcome with its findings in the order of the steps, the gravest of each first.
func (s *subject) sorted(o *Outcome) *Outcome {
	sorted := *o
	sorted.Findings = slices.Clone(o.Findings)
	slices.SortStableFunc(sorted.Findings, func(a, b Finding) int {
		return cmp.Or(
			cmp.Compare(s.stepNumber(a.Step), s.stepNumber(b.Step)),
			cmp.Compare(a.Level.Grave(), b.Level.Grave()),
			cmp.Compare(a.From, b.From),
			cmp.Compare(a.Says, b.Says),
		)
	})
	return &sorted
}

// complete fills in the step and the key of a finding, lists that are there, and whether it is accepted.
func (s *subject) complete(f *Finding) {
	if k := s.film.Schedule.StepAt(f.From); k >= 0 {
		f.Step = s.film.Reveal.Steps[k].ID
	}
	f.Parts, f.Cues = append([]assembly.NodeID{}, f.Parts...), append([]reveal.CueID{}, f.Cues...)
	h := fnv.New64a()
	fmt.Fprint(h, f.Check, f.From, f.At, f.Parts, f.Cues)
	f.Key = fmt.Sprintf("%016x", h.Sum64())
	f.judge(s.film.Reveal)
}

// judge tells whether a finding is accepted.
func (f *Finding) judge(r *reveal.Reveal) {
	f.Accepted = ""
	if r.Proof == nil {
		return
	}
	for i := range r.Proof.Accepted {
		if a := &r.Proof.Accepted[i]; f.isAccepted(a) {
			f.Accepted = a.Reason
		}
	}
}

// Judged is the report with what a reveal accepts of it.
func (r *Outcome) Judged(doc *reveal.Reveal) Outcome {
	judged := *r
	judged.Findings = slices.Clone(r.Findings)
	for i := range judged.Findings {
		judged.Findings[i].judge(doc)
	}
	return judged
}

// SameButAccepted reports whether two reveals differ in nothing but in what they accept: the same is wrong with both.
func SameButAccepted(a, b *reveal.Reveal) bool {
	bare := func(r *reveal.Reveal) []byte {
		o := *r
		if o.Proof != nil {
			o.Proof = &reveal.Proof{Limits: o.Proof.Limits}
			if len(o.Proof.Limits) == 0 {
				o.Proof = nil
			}
		}
		return reveal.Write(&o)
	}
	return bytes.Equal(bare(a), bare(b))
}

// allowance is how much worse than when it was accepted a finding may be, as a share and in its unit.
const allowance = 0.1

// isAccepted reports whether it was this finding that the author accepted: the same check, the same parts, one of the
// same cues, and not worse than it was.
func (f *Finding) isAccepted(a *reveal.Accepted) bool {
	if a.Check != f.Check || !slices.Equal(sorted(a.Parts), sorted(f.Parts)) || f.Worse > a.Worse*(1+allowance)+1e-9 {
		return false
	}
	return len(a.Cues) == 0 && len(f.Cues) == 0 ||
		slices.ContainsFunc(a.Cues, func(c reveal.CueID) bool { return slices.Contains(f.Cues, c) })
}

func sorted[T cmp.Ordered](list []T) []T {
	list = slices.Clone(list)
	slices.Sort(list)
	return list
}

func seconds(t reveal.Micros) string { return fmt.Sprintf("%.1f s", float64(t)/float64(reveal.Second)) }
