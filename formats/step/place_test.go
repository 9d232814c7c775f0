package step_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/fastener"
	"slowreveal/core/survey"
	"slowreveal/formats"
)

// The bolts and nuts of a public assembly (CAx-IF, in npm occt-import-js 0.0.23) are a plain shank with a plain head
// and a plate with a hole: no standard has them. They are told by where they sit, whoever wrote the file and however
// fine it is meshed; brackets and plate are none.
func TestFastenersAreToldByWhereTheySit(t *testing.T) {
	for _, c := range []struct{ file, detail string }{{"as1-oc-214.stp", ""}, {"as1-oc-214.stp", "coarse"}, {"as1-oc-214.stp", "fine"}, {"as1-tu-203.stp", ""}} {
		m := read(t, "step", "cax-if/"+c.file, formats.Options{Detail: c.detail})
		found, err := survey.Of(t.Context(), m.Assembly, m.Shapes)
		require.NoError(t, err)
		count := map[fastener.Kind]int{}
		for i := range m.Assembly.Nodes {
			n := &m.Assembly.Nodes[i]
			if !n.IsPart() || found.Shapes[n.Shape].Fastener == nil {
				continue
			}
			g := found.Shapes[n.Shape].Fastener
			count[g.Kind]++
			if g.Kind != fastener.Pin {
				assert.InDelta(t, 10, g.Diameter, 0.2, "%s: %s", n.ID, g.Why)
			}
			if strings.HasPrefix(g.Size, "Ø") {
				assert.Zero(t, g.Lead, "no standard gives it one: it is pulled, not unscrewed")
			}
		}
		assert.Equal(
			t,
			map[fastener.Kind]int{fastener.Screw: 6, fastener.Nut: 8, fastener.Pin: 1},
			count,
			"%s %s",
			c.file,
			c.detail,
		)
	}
}
