package arrange_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/demo"
)

func TestWhatWasTakenForOneAnotherIsExchanged(t *testing.T) {
	pump := demo.Pump().Assembly
	const knob, button = "housing/dosing-knob", "housing/start-button"
	out := apply(t, pump, arrange.Edit{Do: arrange.Swap, Nodes: ids{knob, button}}).Assembly
	assert.Equal(t, "Start button", name(out, knob))
	assert.Equal(t, "Dosing knob", name(out, button))
	before, after := places(pump), places(out)
	assert.Equal(t, before[knob], after[button], "nothing stands elsewhere")
	twice := apply(
		t,
		pump,
		arrange.Edit{Do: arrange.Swap, Nodes: ids{knob, button}},
		arrange.Edit{Do: arrange.Swap, Nodes: ids{knob, button}},
	)
	assert.Equal(t, pump.Nodes, twice.Assembly.Nodes)
	for _, pair := range []ids{{knob}, {knob, "housing"}, {"housing", "pump-head"}, {"pump-head", "pump-head/door"}} {
		_, err := arrange.Apply(pump, []arrange.Edit{{Do: arrange.Swap, Nodes: pair}})
		if len(pair) == 2 && pair[1] == "pump-head" {
			assert.NoError(t, err, "two groups")
		} else {
			assert.Error(t, err, "%v", pair)
		}
	}
}

func TestWhatIsAnotherOneHasAnIdOfItsOwn(t *testing.T) {
	pump := demo.Pump().Assembly
	const carrier = "planet-stage/carrier-and-shaft"
	out := apply(t, pump, arrange.Edit{Do: arrange.Part, Node: carrier}).Assembly
	index := out.Index()
	_, there := index[carrier]
	assert.False(t, there)
	at, there := index[carrier+"~other-1"]
	assert.True(t, there)
	assert.Equal(t, "Carrier and shaft", out.Nodes[at].Name)
	assert.Less(t, len(out.Joints), len(pump.Joints), "its joints were the other one's")
	_, err := arrange.Apply(pump, []arrange.Edit{{Do: arrange.Part, Node: assembly.Root}})
	assert.Error(t, err)
}
