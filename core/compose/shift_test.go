package compose_test

import (
	"math/rand/v2"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// pump is made once: it takes a while.
var pump = sync.OnceValue(func() *assembly.Assembly { return demo.Pump().Assembly })

// spans are where the cues of a reveal begin on the film's time, and how long their bars are.
func spans(r *reveal.Reveal) map[reveal.CueID][2]reveal.Micros {
	at := map[reveal.CueID][2]reveal.Micros{}
	for _, b := range film.Compile(pump(), r).Schedule.Bars {
		if !b.Retraced {
			at[b.Cue] = [2]reveal.Micros{b.Start, b.Duration}
		}
	}
	return at
}

// Cues that are shifted, alone or together, by any way, start that much later, all equally; none
// starts before the film; each lies in the step that runs when it starts.
func TestShiftedCuesGoIntoTheStepThatRunsThen(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 4))
	crossed := 0
	for range 40 {
		r := demo.Teardown(pump())
		var ids []reveal.CueID
		for i := range r.Steps {
			for k := range r.Steps[i].Cues {
				if random.IntN(12) == 0 {
					ids = append(ids, r.Steps[i].Cues[k].ID)
				}
			}
		}
		by := reveal.Micros(random.IntN(16e6)) - 8*s
		if len(ids) == 0 || by == 0 {
			continue
		}
		lies := spans(r)
		first := lies[ids[0]][0]
		for _, id := range ids {
			first = min(first, lies[id][0])
		}
		if first+by <= 0 {
			by = s / 2
		}
		before, after, _ := perform(t, compose.Operation{Do: compose.Shift, CueIDs: ids, By: by})
		was, now := spans(before), spans(after)
		schedule := film.Compile(pump(), after).Schedule
		for _, id := range ids {
			require.Equal(t, was[id][0]+by, now[id][0], "%s", id)
			i, k := after.FindCue(id)
			j, _ := before.FindCue(id)
			if i != j {
				crossed++
			}
			assert.Equal(t, schedule.StepAt(now[id][0]), i, "%s", id)
			assert.GreaterOrEqual(t, after.Steps[i].Cues[k].Offset, reveal.Micros(0))
		}
		for id, at := range was {
			if now[id] != at {
				assert.Contains(t, ids, id)
			}
		}
	}
	assert.Greater(t, crossed, 30)
}

func TestNothingIsShiftedBeforeTheFilm(t *testing.T) {
	r := demo.Teardown(pump())
	ids := []reveal.CueID{r.Steps[1].Cues[0].ID, r.Steps[2].Cues[0].ID}
	_, after, _ := perform(t, compose.Operation{Do: compose.Shift, CueIDs: ids, By: -200 * s})
	was, now := spans(r), spans(after)
	assert.Zero(t, now[ids[0]][0])
	assert.Equal(t, was[ids[1]][0]-was[ids[0]][0], now[ids[1]][0], "they keep their spacing")
}

// A card gets the time that it takes: everything that would run beside it begins when it has ended.
func TestRoomIsMadeForACard(t *testing.T) {
	r := demo.Teardown(pump())
	step := &r.Steps[1]
	first := step.Cues[0]
	before, after, _ := perform(t, compose.Operation{Do: compose.MakeRoom, CueIDs: []reveal.CueID{first.ID}})
	was, now := spans(before), spans(after)
	assert.Equal(t, was[first.ID], now[first.ID])
	for _, c := range step.Cues[1:] {
		later := reveal.Micros(0)
		if c.Offset >= first.Offset {
			later = first.Duration
		}
		assert.Equal(t, was[c.ID][0]+later, now[c.ID][0])
	}
	assert.Equal(t, step.Duration+first.Duration, after.Steps[1].Duration)
}

// A start that is drawn out of its step takes the cue with it; the end stays where it is.
func TestAStartGoesIntoAnEarlierStep(t *testing.T) {
	r := demo.Teardown(pump())
	cue := r.Steps[2].Cues[0]
	by := -cue.Offset - s
	before, after, _ := perform(
		t,
		compose.Operation{Do: compose.Stretch, CueIDs: []reveal.CueID{cue.ID}, By: by, Edge: edit.Start},
	)
	was, now := spans(before)[cue.ID], spans(after)[cue.ID]
	assert.Equal(t, was[0]+by, now[0])
	assert.Equal(t, was[0]+was[1], now[0]+now[1])
	i, _ := after.FindCue(cue.ID)
	assert.Equal(t, 1, i)
}

// Cues that are told when to begin do so, each by itself, whatever steps they leave and come into; those
// that are told what they do already stay.
func TestCuesBeginWhenTheyAreTold(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 1))
	crossed := 0
	for range 40 {
		r := demo.Teardown(pump())
		end := film.Compile(pump(), r).Duration()
		w := compose.Operation{Do: compose.Begin}
		lies := spans(r)
		for i := range r.Steps {
			for k := range r.Steps[i].Cues {
				id := r.Steps[i].Cues[k].ID
				start := lies[id][0]
				switch random.IntN(10) {
				case 0:
					start = reveal.Micros(random.Int64N(int64(end)))
				case 1:
				default:
					continue
				}
				w.CueIDs, w.Starts = append(w.CueIDs, id), append(w.Starts, start)
			}
		}
		moves := false
		for i, id := range w.CueIDs {
			moves = moves || lies[id][0] != w.Starts[i]
		}
		if !moves {
			continue
		}
		before, after, _ := perform(t, w)
		now := spans(after)
		for i, id := range w.CueIDs {
			require.Equal(t, w.Starts[i], now[id][0], "%s", id)
			from, _ := before.FindCue(id)
			if to, _ := after.FindCue(id); from != to {
				crossed++
			}
		}
		for id, at := range lies {
			if now[id] != at {
				assert.Contains(t, w.CueIDs, id)
			}
		}
	}
	assert.Greater(t, crossed, 30)
}

// One cue goes out of a step into which another one comes: both land.
func TestCuesChangePlaces(t *testing.T) {
	r := demo.Teardown(pump())
	out, in := r.Steps[1].Cues[0].ID, r.Steps[2].Cues[0].ID
	lies := spans(r)
	w := compose.Operation{
		Do:     compose.Begin,
		CueIDs: []reveal.CueID{out, in},
		Starts: []reveal.Micros{lies[in][0], lies[out][0]},
	}
	_, after, _ := perform(t, w)
	now := spans(after)
	assert.Equal(t, lies[in][0], now[out][0])
	assert.Equal(t, lies[out][0], now[in][0])
	w.Starts = w.Starts[:1]
	_, err := command(r, w)
	assert.ErrorContains(t, err, "give each of them one")
}
