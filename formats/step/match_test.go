package step_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/match"
	"slowreveal/formats"
)

// The same assembly, written by two programs with other names, is matched node by node, and for sure.
func TestTheSameAssemblyByTwoExportersIsMatched(t *testing.T) {
	oc := read(t, "step", "cax-if/as1-oc-214.stp", formats.Options{})
	tu := read(t, "step", "cax-if/as1-tu-203.stp", formats.Options{})
	out := match.Of(
		match.Side{Assembly: oc.Assembly, Shapes: oc.Shapes},
		match.Side{Assembly: tu.Assembly, Shapes: tu.Shapes},
	)
	assert.Len(t, out.Pairs, len(oc.Assembly.Nodes))
	assert.Empty(t, out.Gone)
	assert.Empty(t, out.Added)
	places, now := oc.Assembly.Worlds(), tu.Assembly.Worlds()
	old, fresh := oc.Assembly.Index(), tu.Assembly.Index()
	for _, p := range out.Pairs {
		assert.True(t, p.Sure, "%s and %s: %s", p.Old, p.New, p.Why)
		a, b := places[old[p.Old]].T, now[fresh[p.New]].T
		if oc.Assembly.Nodes[old[p.Old]].IsPart() {
			assert.InDelta(t, a.X, b.X, 0.01, p.Old)
			assert.InDelta(t, a.Y, b.Y, 0.01, p.Old)
			assert.InDelta(t, a.Z, b.Z, 0.01, p.Old)
		}
	}
}
