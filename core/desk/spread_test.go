package desk_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/desk"
)

func spread(t *testing.T, d *desk.Desk, more string) []desk.Pulled {
	t.Helper()
	// The cover stands in front of the rotor, whose hub lies behind its plate.
	answer, err := d.Ask(
		[]byte(
			fmt.Sprintf(
				`{"ask":"spread","nodes":["pump-head/rotor/rotor-plate-front","pump-head/rotor/rotor-hub","pump-head/rotor-cover"],"along":[0,0,1],%s}`,
				more,
			),
		),
	)
	require.NoError(t, err)
	s := answer.(desk.Spread)
	assert.InDelta(t, 1, s.Along[2], 1e-12)
	return s.Pulls
}

func TestASpreadHasEvenGapsInTheOrderOfPlaces(t *testing.T) {
	d, _ := open(t)
	got := spread(t, d, `"distance":90`)
	require.Len(t, got, 3)
	for i, want := range []desk.Pulled{{Node: "pump-head/rotor/rotor-hub", Distance: 30}, {Node: "pump-head/rotor/rotor-plate-front", Distance: 60}, {Node: "pump-head/rotor-cover", Distance: 90}} {
		assert.Equal(t, want.Node, got[i].Node)
		assert.InDelta(t, want.Distance, got[i].Distance, 1e-9)
	}
}

func TestASpreadByGapsTakesEachSoMuchFurther(t *testing.T) {
	d, _ := open(t)
	got := spread(t, d, `"distance":20,"gap":true`)
	for i, want := range []float64{20, 40, 60} {
		assert.InDelta(t, want, got[i].Distance, 1e-9)
	}
	assert.Equal(t, "pump-head/rotor-cover", string(got[2].Node), "the outermost by place")
}

func TestAPeelCarriesWhatIsOutsideEachLayer(t *testing.T) {
	d, _ := open(t)
	got := spread(t, d, `"distance":20,"peel":true`)
	// Picked outermost first: the plate goes farthest, whatever its place.
	assert.Equal(
		t,
		[]desk.Pulled{
			{Node: "pump-head/rotor-cover", Distance: 20},
			{Node: "pump-head/rotor/rotor-hub", Distance: 40},
			{Node: "pump-head/rotor/rotor-plate-front", Distance: 60},
		},
		got,
	)
	_, err := d.Ask([]byte(`{"ask":"spread","nodes":["pump-head"],"along":[0,0,1],"distance":1}`))
	assert.ErrorContains(t, err, "at least two")
	_, err = d.Ask([]byte(`{"ask":"spread","nodes":["pump-head","housing"],"along":[0,0,0],"distance":1}`))
	assert.Error(t, err)
}
