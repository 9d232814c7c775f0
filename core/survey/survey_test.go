package survey_test

import (
	"context"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/fastener"
	"slowreveal/core/survey"
	"slowreveal/demo"
)

// thread is the end of a screw's name from the thread on: "M3 × 12".
var thread = regexp.MustCompile(`screw (M\d+ × \d+)$`)

func TestTheExampleIsUnderstood(t *testing.T) {
	m := demo.Pump()
	s, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
	require.NoError(t, err)
	found, want := map[string]int{}, map[string]int{}
	for _, set := range s.Ready {
		found[set.Name] = len(set.Nodes)
		assert.GreaterOrEqual(t, set.Confidence, 0.4)
	}
	for i := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[i]
		if !n.IsPart() {
			continue
		}
		g := s.Shapes[n.Shape].Fastener
		size := thread.FindStringSubmatch(n.Name)
		assert.Equal(
			t,
			size != nil,
			g != nil && g.Kind == fastener.Screw,
			"%s: screws, and only screws, are called screws",
			n.Name,
		)
		if size != nil {
			want["Screws "+size[1]]++
		}
	}
	require.NotEmpty(t, want)
	for name, n := range want {
		assert.Equal(t, n, found[name], name)
	}
	assert.Equal(t, 2, found["Bearings 8 × 22 × 7"], found)
	assert.NotEmpty(t, s.Contacts)
	for _, f := range s.Shapes {
		assert.Positive(t, f.Area)
	}
}

func TestPartsAreFoundByRule(t *testing.T) {
	m := demo.Pump()
	s, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
	require.NoError(t, err)
	pick := func(rule survey.Rule, from ...assembly.NodeID) (names map[string]int) {
		t.Helper()
		found, err := s.Pick(m.Assembly, rule, from)
		require.NoError(t, err)
		names = map[string]int{}
		index := m.Assembly.Index()
		for _, id := range found {
			names[m.Assembly.Nodes[index[id]].Name]++
		}
		return names
	}
	screw := assembly.NodeID("")
	cover := assembly.NodeID("")
	for i := range m.Assembly.Nodes {
		switch n := &m.Assembly.Nodes[i]; n.Name {
		case "Cover screw M3 × 12":
			screw = n.ID
		case "Rotor cover":
			cover = n.ID
		}
	}
	assert.Equal(t, map[string]int{"Cover screw M3 × 12": 4}, pick(survey.Like, screw))
	assert.Equal(t, 4, pick(survey.Fasteners, cover)["Cover screw M3 × 12"])
	assert.NotContains(t, pick(survey.Fasteners, cover), "Track block", "only fasteners")
	assert.Contains(t, pick(survey.Neighbours, screw), "Rotor cover")
	all := pick(survey.Inside, assembly.Root)
	n := 0
	for _, k := range all {
		n += k
	}
	assert.Equal(t, m.Assembly.Parts(), n)
	assert.NotContains(t, pick(survey.Inside, screw), "Rotor cover")
	_, err = s.Pick(m.Assembly, "guess", nil)
	assert.Error(t, err)
}
