package reveal_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

func TestTheExampleIsValidAndReadsBack(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	require.NoError(t, reveal.Validate(r, a))
	back, err := reveal.Parse(reveal.Write(r))
	require.NoError(t, err)
	assert.Equal(t, string(reveal.Write(r)), string(reveal.Write(back)))
}

// The published schema accepts what we write and refuses what we refuse.
func TestThePublishedSchemaFitsTheDocument(t *testing.T) {
	text, err := os.ReadFile("../../docs/reveal.schema.json")
	require.NoError(t, err)
	schema, err := jsonschema.UnmarshalJSON(strings.NewReader(string(text)))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("reveal.schema.json", schema))
	s, err := c.Compile("reveal.schema.json")
	require.NoError(t, err)
	check := func(doc string) error {
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(doc))
		require.NoError(t, err)
		return s.Validate(v)
	}
	doc := string(reveal.Write(demo.Teardown(demo.Pump().Assembly)))
	assert.NoError(t, check(doc))
	assert.Error(t, check(strings.Replace(doc, `"title"`, `"tilte"`, 1)))
	assert.Error(t, check(strings.Replace(doc, `"kind":"pull"`, `"kind":"push"`, 1)))
	assert.Error(t, check(strings.Replace(doc, `"easing":"smooth"`, `"easing":[1,2]`, 1)))
}

// Each row breaks one thing in the example; the problem must name its place.
func TestWhatIsWrongIsNamed(t *testing.T) {
	a := demo.Pump().Assembly
	for _, c := range []struct {
		path  string
		wreck func(r *reveal.Reveal)
	}{
		{"title", func(r *reveal.Reveal) { r.Title = "" }},
		{"title", func(r *reveal.Reveal) { r.Title = strings.Repeat("x", 201) }},
		{"frame", func(r *reveal.Reveal) { r.Frame.Width = 1921 }},
		{"frame.rate", func(r *reveal.Reveal) { r.Frame.Rate = 0 }},
		{"opening.camera.lens", func(r *reveal.Reveal) { r.Opening.Camera.Lens = 0 }},
		{"opening.camera.orientation", func(r *reveal.Reveal) { r.Opening.Camera.Orientation = [4]float64{} }},
		{"opening.leftOut", func(r *reveal.Reveal) { r.Opening.LeftOut = append(r.Opening.LeftOut, "no/such/part") }},
		{"steps[1].length", func(r *reveal.Reveal) { r.Steps[1].Length = 0 }},
		{"steps[1].id", func(r *reveal.Reveal) { r.Steps[1].ID = r.Steps[0].ID }},
		{"steps[0].cues[0].length", func(r *reveal.Reveal) { r.Steps[0].Cues[0].Length = 0 }},
		{"steps[0].cues[0].length", func(r *reveal.Reveal) { r.Steps[0].Cues[0].Length = -5 }},
		{"steps[0].cues[0].offset", func(r *reveal.Reveal) { r.Steps[0].Cues[0].Offset = -1 }},
		{"steps[0].cues[1].turn.degrees", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Turn.Degrees = 1e6 * 360 }},
		{"steps[0].cues[1].turn", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Turn.About = [3]float64{} }},
		{"steps[0].cues[1].turn", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Turn = nil }},
		{"steps[0].cues[1].targets", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Targets = nil }},
		{"steps[1].cues[1].unscrew.lead", func(r *reveal.Reveal) { r.Steps[1].Cues[1].Unscrew.Lead = 0 }},
		{"steps[1].notice.signal", func(r *reveal.Reveal) { r.Steps[1].Notice.Signal = "BEWARE" }},
		{"steps[2].cues[1].fade.to", func(r *reveal.Reveal) { r.Steps[2].Cues[1].Fade.To = 1.5 }},
		{"steps[7].retrace.steps[0]", func(r *reveal.Reveal) { r.Steps[7].Retrace.Steps[0] = "step-8" }},
		{"steps[7].retrace.steps[1]", func(r *reveal.Reveal) { r.Steps[7].Retrace.Steps[1] = "step-1" }},
	} {
		r := reveal.Clone(demo.Teardown(a))
		c.wreck(r)
		var problems reveal.Problems
		require.ErrorAs(t, reveal.Validate(r, a), &problems, c.path)
		var paths []string
		for _, p := range problems {
			paths = append(paths, p.Path)
		}
		assert.Contains(t, paths, c.path)
	}
}

func TestParseRefusesWhatItDoesNotKnow(t *testing.T) {
	good := string(reveal.Write(demo.Teardown(demo.Pump().Assembly)))
	for name, text := range map[string]string{
		"unknown field": strings.Replace(good, `"title"`, `"tilte"`, 1), "other format": strings.Replace(good, "reveal/1", "reveal/9", 1),
		"trailing": good + "{}", "cut off": good[:len(good)/2], "empty": "", "easing": strings.Replace(good, `"smooth"`, `"bouncy"`, 1),
		"easing x": strings.Replace(good, `"easing":"smooth"`, `"easing":[2,0,1,1]`, 1),
	} {
		_, err := reveal.Parse([]byte(text))
		assert.Error(t, err, name)
	}
	var e reveal.Easing
	require.NoError(t, json.Unmarshal([]byte(`[0.1,0.2,0.3,0.4]`), &e))
	back, err := json.Marshal(e)
	require.NoError(t, err)
	assert.JSONEq(t, `[0.1,0.2,0.3,0.4]`, string(back))
}

func FuzzParse(f *testing.F) {
	f.Add(reveal.Write(demo.Teardown(demo.Pump().Assembly)))
	f.Add([]byte(`{"format":"slowreveal/reveal/1"}`))
	a := demo.Pump().Assembly
	f.Fuzz(func(t *testing.T, data []byte) {
		if r, err := reveal.Parse(data); err == nil {
			_ = reveal.Validate(r, a)
		}
	})
}

// Match keeps what an assembly has and names what it has not.
func TestARevealFromElsewhereKeepsWhatFits(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	assert.Empty(t, reveal.Match(r, a))
	assert.Equal(t, string(reveal.Write(demo.Teardown(a))), string(reveal.Write(r)), "all of it fits")
	var rest assembly.Assembly
	rest.Nodes = a.Nodes[:0:0]
	for _, n := range a.Nodes {
		if n.ID != "pump-head/rotor-cover" && n.ID != "pump-head/door" {
			rest.Nodes = append(rest.Nodes, n)
		}
	}
	before := len(r.Steps[0].Cues)
	lines := reveal.Match(r, &rest)
	all := strings.Join(lines, "\n")
	assert.Contains(t, all, `step 1 "Open the door": a turn of pump-head/door`)
	assert.Contains(t, all, "pump-head/rotor-cover")
	assert.Len(t, r.Steps[0].Cues, before-1, "a cue without a target goes, the shot stays")
	for _, s := range r.Steps {
		for _, c := range s.Cues {
			assert.NotContains(t, c.Targets, assembly.NodeID("pump-head/rotor-cover"))
			assert.True(t, c.Kind.Camera() || len(c.Targets) > 0)
		}
	}
}
