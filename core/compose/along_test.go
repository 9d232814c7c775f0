package compose_test

import (
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

// Screws that came with a revision go with the nearest of those that leave already, in all that these do.
func TestNewPartsGoWithTheirLikes(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	last := a.Nodes[a.Index()["pump-head/cover-screw-m3-12~2"]]
	last.ID, last.Name = "pump-head/cover-screw-m3-12~5", "Cover screw M3 × 12"
	last.Pose.Move[0] += 6
	a.Nodes = append(a.Nodes, last)
	require.NoError(t, a.Check())
	count := func(id assembly.NodeID) (n int) {
		for i := range r.Steps {
			for k := range r.Steps[i].Cues {
				for _, at := range r.Steps[i].Cues[k].Targets {
					if at == id {
						n++
					}
				}
			}
		}
		return n
	}
	subject := &compose.Subject{Reveal: r, Assembly: a, Film: film.Compile(a, r), Index: a.Index()}
	made, err := compose.Apply(subject, compose.Operation{Do: compose.TakeAlong, Nodes: []assembly.NodeID{last.ID}})
	require.NoError(t, err)
	before := reveal.Clone(r)
	undo, err := edit.Do(r, a, made.Command)
	require.NoError(t, err)
	assert.Equal(t, 4, count(last.ID), "unscrewed, pulled, off with the cover, faded")
	assert.Equal(t, count("pump-head/cover-screw-m3-12~2"), count(last.ID))
	_, err = compose.Apply(subject, compose.Operation{Do: compose.TakeAlong, Nodes: []assembly.NodeID{last.ID}})
	assert.Error(t, err, "it goes already")
	_, err = compose.Apply(
		subject,
		compose.Operation{Do: compose.TakeAlong, Nodes: []assembly.NodeID{"control-board/controller"}},
	)
	assert.ErrorContains(t, err, "like these")
	_, err = edit.Do(r, a, undo)
	require.NoError(t, err)
	assert.Equal(t, before, r)
}
