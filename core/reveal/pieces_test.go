package reveal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// What acts on a part acts on its pieces too: each once, with what is said of the part; what names it not stays as it is.
func TestPiecesAreDirectedAsTheirPart(t *testing.T) {
	doc := func() *reveal.Reveal {
		r := reveal.New("Made", reveal.Camera{})
		r.Opening.Suppressed = []assembly.NodeID{"tray"}
		r.Opening.Opacities = []reveal.NodeOpacity{{Node: "hood", Opacity: 0.3}, {Node: "foot", Opacity: 0.5}}
		r.Steps = []reveal.Step{{ID: "one", Cues: []reveal.Cue{
			{ID: "lift", Kind: reveal.KindPull, Targets: []assembly.NodeID{"hood", "hood-2", "lid"}},
			{
				ID:      "run",
				Kind:    reveal.KindDrive,
				Targets: []assembly.NodeID{"hood"},
				Drive:   &reveal.Drive{Joint: "hinge"},
			},
			{
				ID:   "look",
				Kind: reveal.KindShot,
				Shot: &reveal.Shot{Follow: &reveal.Follow{Nodes: []assembly.NodeID{"hood"}}},
			},
		}}}
		return r
	}
	r := doc()
	assert.True(t, reveal.Divided(r, assembly.Pieces{"hood": {"hood-2", "hood-3"}}))
	cues := r.Steps[0].Cues
	assert.Equal(t, []assembly.NodeID{"hood", "hood-2", "lid", "hood-3"}, cues[0].Targets)
	assert.Equal(t, []assembly.NodeID{"hood"}, cues[1].Targets, "a drive moves what its joint moves")
	assert.Equal(t, []assembly.NodeID{"hood", "hood-2", "hood-3"}, cues[2].Shot.Follow.Nodes)
	assert.Equal(t, []reveal.NodeOpacity{
		{
			Node:    "hood",
			Opacity: 0.3,
		}, {Node: "foot", Opacity: 0.5}, {Node: "hood-2", Opacity: 0.3}, {Node: "hood-3", Opacity: 0.3},
	}, r.Opening.Opacities)
	assert.Equal(t, []assembly.NodeID{"tray"}, r.Opening.Suppressed)
	assert.False(t, reveal.Divided(r, assembly.Pieces{"hood": {"hood-2", "hood-3"}}), "they are there already")

	r = doc()
	assert.False(t, reveal.Divided(r, assembly.Pieces{"door": {"door-2"}}))
	assert.False(t, reveal.Divided(r, nil))
	assert.Equal(t, doc(), r)
}
