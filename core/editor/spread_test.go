package editor_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/compose"
	"slowreveal/core/editor"
)

// pulled is how far a node of a spread goes, mm.
type pulled struct {
	Node     string
	Distance float64
}

func spread(t *testing.T, d *editor.Editor, more string) (list []pulled) {
	t.Helper()
	// The cover stands in front of the rotor, whose hub lies behind its plate.
	answer, err := d.Ask([]byte(fmt.Sprintf(
		`{"ask":"compose","with":{"fresh":"s","time":1000000,"way":{"axes":"assembly","along":[0,0,1]},%s,
			"nodes":["pump-head/rotor/rotor-plate-front","pump-head/rotor/rotor-hub","pump-head/rotor-cover"]}}`,
		more,
	)))
	require.NoError(t, err)
	for _, c := range answer.(compose.Composed).Command.Commands {
		assert.InDelta(t, 1, c.Cue.Pull.Along[2], 1e-12)
		require.Len(t, c.Cue.Targets, 1)
		list = append(list, pulled{string(c.Cue.Targets[0]), c.Cue.Pull.Distance})
	}
	return list
}

func TestASpreadHasEvenGapsInTheOrderOfPlaces(t *testing.T) {
	d, _ := open(t)
	got := spread(t, d, `"do":"spread","distance":90`)
	require.Len(t, got, 3)
	for i, want := range []pulled{{Node: "pump-head/rotor/rotor-hub", Distance: 30}, {Node: "pump-head/rotor/rotor-plate-front", Distance: 60}, {Node: "pump-head/rotor-cover", Distance: 90}} {
		assert.Equal(t, want.Node, got[i].Node)
		assert.InDelta(t, want.Distance, got[i].Distance, 1e-9)
	}
}

func TestASpreadByGapsTakesEachSoMuchFurther(t *testing.T) {
	d, _ := open(t)
	got := spread(t, d, `"do":"spread","distance":20,"on":true`)
	for i, want := range []float64{20, 40, 60} {
		assert.InDelta(t, want, got[i].Distance, 1e-9)
	}
	assert.Equal(t, "pump-head/rotor-cover", string(got[2].Node), "the outermost by place")
}

func TestAPeelCarriesWhatIsOutsideEachLayer(t *testing.T) {
	d, _ := open(t)
	got := spread(t, d, `"do":"peel","distance":20`)
	// Picked outermost first: the plate goes farthest, whatever its place.
	assert.Equal(
		t,
		[]pulled{
			{Node: "pump-head/rotor-cover", Distance: 20},
			{Node: "pump-head/rotor/rotor-hub", Distance: 40},
			{Node: "pump-head/rotor/rotor-plate-front", Distance: 60},
		},
		got,
	)
	_, err := d.Ask([]byte(`{"ask":"compose","with":{"do":"spread","fresh":"x","nodes":["pump-head"],"distance":1}}`))
	assert.ErrorContains(t, err, "at least two")
	_, err = d.Ask(
		[]byte(
			`{"ask":"compose","with":{"do":"spread","fresh":"x","nodes":["pump-head","housing"],"way":{"axes":"own","along":[0,0,0]},"distance":1}}`,
		),
	)
	assert.Error(t, err)
}
