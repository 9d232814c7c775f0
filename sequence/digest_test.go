package sequence_test

import (
	"context"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/encode"
	"slowreveal/render"
	"slowreveal/sequence"
)

// small is the example as a film of 12 segments, after something has been changed in it.
func small(t *testing.T, change func(m *product.Model, r *reveal.Reveal)) *sequence.Sequence {
	t.Helper()
	m := demo.Pump()
	own := *m.Assembly
	own.Nodes, own.Finishes = slices.Clone(own.Nodes), slices.Clone(own.Finishes)
	m.Assembly = &own
	r := demo.Teardown(m.Assembly)
	if change != nil {
		change(m, r)
	}
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	f := film.Compile(m.Assembly, r)
	p, err := sequence.Order{
		Width:    96,
		Height:   54,
		Rate:     6,
		Captions: true,
		Notices:  true,
		Purpose:  encode.Draft,
	}.Plan(f)
	require.NoError(t, err)
	return p.Alone(f, scene)
}

func digests(c *sequence.Sequence) (list []string) {
	for i := range c.Segments() {
		list = append(list, c.Digest(i))
	}
	return list
}

// differing are the segments in which something else is seen.
func differing(a, b []string) (list []int) {
	for i := range a {
		if a[i] != b[i] {
			list = append(list, i)
		}
	}
	return list
}

func node(m *product.Model, id assembly.NodeID) *assembly.Node {
	return &m.Assembly.Nodes[m.Assembly.Index()[id]]
}

// Segments in which the same is seen have the same bytes, whatever else is different, and what is seen is in the digest.
func TestPiecesInWhichTheSameIsSeenAreTheSame(t *testing.T) {
	first := small(t, nil)
	before := digests(first)
	folder := t.TempDir()
	require.NoError(t, first.AllSegments(context.Background(), folder, nil))
	last := len(before) - 1
	changes := map[string]struct {
		change func(m *product.Model, r *reveal.Reveal)
		from   int // the first segment in which it is seen, −1 for none
	}{
		"all names": {func(m *product.Model, r *reveal.Reveal) {
			for i := range m.Assembly.Nodes {
				m.Assembly.Nodes[i].Name += " B"
			}
		}, -1},
		"the title of the reveal": {func(_ *product.Model, r *reveal.Reveal) { r.Title = "Another" }, -1},
		"the text of the last card": {
			func(_ *product.Model, r *reveal.Reveal) { cardOf(r).Text = "Every 400 hours" },
			last,
		},
		"the title of the last step": {
			func(_ *product.Model, r *reveal.Reveal) { r.Steps[len(r.Steps)-1].Title = "Done" },
			10,
		},
		"a note": {
			func(_ *product.Model, r *reveal.Reveal) { noteOf(r).Text = "Ring gear of steel" },
			8,
		},
		"where a part stands that is shown late": {func(m *product.Model, r *reveal.Reveal) {
			// it has faded before it can be seen elsewhere; the way back shows it again
			node(m, "planet-stage/o-ring").Pose.Move[2] -= 0.5
		}, 0},
		"a finish": {func(m *product.Model, _ *reveal.Reveal) {
			m.Assembly.Finishes[node(m, "housing/hood").Finishes[0]].Colour = space.Vec3{1, 0, 0}
		}, 0},
		"the way of a late pull": {func(_ *product.Model, r *reveal.Reveal) {
			for k := range r.Steps[6].Cues {
				if p := r.Steps[6].Cues[k].Pull; p != nil {
					p.Distance *= 0.9
				}
			}
		}, 7},
	}
	for k, name := range slices.Sorted(maps.Keys(changes)) {
		if testing.Short() && k%3 > 0 {
			continue
		}
		c := changes[name]
		other := small(t, c.change)
		now := digests(other)
		require.Len(t, now, len(before), name)
		differ := differing(before, now)
		if c.from < 0 {
			assert.Empty(t, differ, name)
		} else {
			require.NotEmpty(t, differ, name)
			assert.Equal(t, c.from, differ[0], name)
		}
		made := t.TempDir()
		require.NoError(t, other.AllSegments(context.Background(), made, nil))
		for i := range now {
			a, err := os.ReadFile(first.SegmentPath(folder, i))
			require.NoError(t, err)
			b, err := os.ReadFile(other.SegmentPath(made, i))
			require.NoError(t, err)
			if same := string(a) == string(b); now[i] == before[i] {
				assert.True(t, same, "%s: segment %d shows the same, and has other bytes", name, i)
			}
		}
	}
}

func cardOf(r *reveal.Reveal) *reveal.Card {
	cues := r.Steps[len(r.Steps)-1].Cues
	return cues[len(cues)-1].Card
}

func noteOf(r *reveal.Reveal) *reveal.Note {
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			if n := r.Steps[i].Cues[k].Note; n != nil && strings.HasPrefix(n.Text, "Ring gear") {
				return n
			}
		}
	}
	return nil
}

// The digest of a still is the same where the same is seen, whatever the step and the node are called and whenever it is,
// and another one where something is.
func TestADigestOfAStillTellsWhatIsSeen(t *testing.T) {
	m := demo.Pump()
	order := sequence.Order{Width: 96, Height: 54}
	digest := func(r *reveal.Reveal, at reveal.Micros, o sequence.Order) string {
		d, err := sequence.StillDigest(film.Compile(m.Assembly, r), o, at)
		require.NoError(t, err)
		return d
	}
	r := demo.Teardown(m.Assembly)
	at := 12 * reveal.Second
	first := digest(r, at, order)
	later := reveal.Clone(r)
	later.Steps[0].Title = "Otherwise called"
	later.Steps[0].Duration += 2 * reveal.Second
	assert.Equal(t, first, digest(later, at+2*reveal.Second, order), "it is seen two seconds later")
	assert.NotEqual(t, first, digest(r, at+reveal.Second, order))
	assert.NotEqual(t, first, digest(r, at, sequence.Order{Width: 96, Height: 56}))
	moved := reveal.Clone(r)
	s, k := moved.FindCue("cue-2")
	moved.Steps[s].Cues[k].Turn.Degrees -= 1
	assert.NotEqual(t, first, digest(moved, at, order), "the door stands otherwise")
	_, err := sequence.StillDigest(film.Compile(m.Assembly, r), sequence.Order{Width: -4, Height: 2}, at)
	assert.Error(t, err)
}
