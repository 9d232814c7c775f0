package reveal_test

import (
	"encoding/json"
	"fmt"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
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
		{"opening.camera.focalLength", func(r *reveal.Reveal) { r.Opening.Camera.FocalLength = 0 }},
		{"opening.camera.orientation", func(r *reveal.Reveal) { r.Opening.Camera.Orientation = [4]float64{} }},
		{"opening.suppressed", func(r *reveal.Reveal) { r.Opening.Suppressed = append(r.Opening.Suppressed, "no/such/part") }},
		{"steps[1].duration", func(r *reveal.Reveal) { r.Steps[1].Duration = 0 }},
		{"steps[1].id", func(r *reveal.Reveal) { r.Steps[1].ID = r.Steps[0].ID }},
		{"steps[0].cues[0].duration", func(r *reveal.Reveal) { r.Steps[0].Cues[0].Duration = 0 }},
		{"steps[0].cues[0].duration", func(r *reveal.Reveal) { r.Steps[0].Cues[0].Duration = -5 }},
		{"steps[0].cues[0].offset", func(r *reveal.Reveal) { r.Steps[0].Cues[0].Offset = -1 }},
		{"steps[0].cues[1].turn.degrees", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Turn.Degrees = 1e6 * 360 }},
		{"steps[0].cues[1].turn.along", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Turn.About = [3]float64{} }},
		{"steps[0].cues[1].turn", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Turn = nil }},
		{"steps[0].cues[1].targets", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Targets = nil }},
		{"steps[1].cues[1].unscrew.lead", func(r *reveal.Reveal) { r.Steps[1].Cues[1].Unscrew.Lead = 0 }},
		{"steps[1].notice.signal", func(r *reveal.Reveal) { r.Steps[1].Notice.Signal = "BEWARE" }},
		{"steps[2].cues[1].fade.to", func(r *reveal.Reveal) { r.Steps[2].Cues[1].Fade.To = 1.5 }},
		{"steps[7].retrace.steps[0]", func(r *reveal.Reveal) { r.Steps[7].Retrace.Steps[0] = "step-8" }},
		{"steps[7].retrace.speed", func(r *reveal.Reveal) { r.Steps[7].Retrace.Speed = -1 }},
		{"steps[0].cues[2].twin", func(r *reveal.Reveal) { twin(r, "no-such-cue") }},
		{"steps[0].cues[3].twin", func(r *reveal.Reveal) { twin(r, "cue-2"); twin(r, "twin-2") }},
		{"steps[0].cues[2].twin", func(r *reveal.Reveal) { twin(r, "cue-1") }}, // a turn is no shot
		{"steps[0].cues[2].twin", func(r *reveal.Reveal) { twin(r, "cue-2").Duration = 5 }},
		{"steps[0].cues[2].twin", func(r *reveal.Reveal) { twin(r, "cue-2").Turn = r.Steps[0].Cues[1].Turn }},
		{"steps[0].cues[1].flow", func(r *reveal.Reveal) {
			r.Steps[0].Cues[1].Flow = &reveal.FlowLine{Of: reveal.FlowAll, From: 0.8, To: 0.2}
		}},
		{"steps[0].cues[1].flow.of", func(r *reveal.Reveal) { r.Steps[0].Cues[1].Flow = &reveal.FlowLine{Of: "some"} }},
		{"steps[0].cues[0].shot.straight", func(r *reveal.Reveal) {
			shot := r.Steps[0].Cues[0].Shot
			shot.Straight, shot.Via = true, []reveal.Camera{shot.Camera}
		}},
		{"steps[0].cues[0].shot.via[0].focalLength", func(r *reveal.Reveal) {
			bad := r.Steps[0].Cues[0].Shot.Camera
			bad.FocalLength = 0
			r.Steps[0].Cues[0].Shot.Via = []reveal.Camera{bad}
		}},
		{"opening.poses[0]", func(r *reveal.Reveal) { r.Opening.Poses = []reveal.NodePose{{Node: "gone"}} }},
		{"opening.tints[0].amount", func(r *reveal.Reveal) {
			r.Opening.Tints = []reveal.NodeTint{{Node: "pump-head", Tint: reveal.Tint{Amount: 3}}}
		}},
		{"captions.size", func(r *reveal.Reveal) {
			r.Captions = &reveal.Captions{Show: reveal.AllWords, Place: reveal.LowerLeft, Size: 9}
		}},
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

// twin adds a twin of a cue to the first step.
func twin(r *reveal.Reveal, of reveal.CueID) *reveal.Cue {
	cues := &r.Steps[0].Cues
	c := reveal.Cue{
		ID:      reveal.CueID(fmt.Sprintf("twin-%d", len(*cues))),
		Kind:    reveal.KindTurn,
		Twin:    of,
		Targets: []assembly.NodeID{"pump-head"},
	}
	*cues = append(*cues, c)
	return &(*cues)[len(*cues)-1]
}

// What is odd but makes sense is taken; no limit is met by accident.
func TestWhatIsOddButMakesSenseIsTaken(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	r.Steps[0].Title = "افتح الغطاء" // right to left
	r.Steps[0].Instruction = strings.Repeat("x ", reveal.MaxText/2)
	r.Steps[0].Cues[1].Turn.Degrees = 360 * reveal.MaxTurns
	all := reveal.Cue{ID: "all", Kind: reveal.KindFade, Duration: 1, Fade: &reveal.Fade{To: 0}}
	for i := range a.Nodes {
		all.Targets = append(all.Targets, a.Nodes[i].ID)
	}
	r.Steps[0].Cues = append(r.Steps[0].Cues, all)
	twin(r, "cue-2")
	require.NoError(t, reveal.Validate(r, a))
	back, err := reveal.Parse(reveal.Write(r))
	require.NoError(t, err)
	assert.Equal(t, string(reveal.Write(r)), string(reveal.Write(back)))
}

// Documents written before flow lines had settings say true.
func TestAFlowLineOfAnOlderDocumentIsRead(t *testing.T) {
	var c reveal.Cue
	require.NoError(
		t,
		json.Unmarshal([]byte(`{"id":"a","kind":"pull","offset":0,"duration":1,"easing":"smooth","flow":true}`), &c),
	)
	assert.Equal(t, &reveal.FlowLine{Of: reveal.FlowEach}, c.Flow)
	assert.Error(t, json.Unmarshal([]byte(`{"flow":{"of":"each","colour":1}}`), &c))
}

func TestParseRefusesWhatItDoesNotKnow(t *testing.T) {
	good := string(reveal.Write(demo.Teardown(demo.Pump().Assembly)))
	for name, text := range map[string]string{
		"unknown field": strings.Replace(good, `"title"`, `"tilte"`, 1), "other format": strings.Replace(good, "reveal/2", "reveal/9", 1),
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
	f.Add([]byte(`{"format":"slowreveal/reveal/2"}`))
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
			assert.True(t, !c.Kind.Targeted() || len(c.Targets) > 0)
		}
	}
}

// Of the next revision nothing is dropped: a cue that has lost all that it acts on is kept, switched off, and goes on when
// that comes back, unless its author had switched it off.
func TestACueWhosePartsAreGoneIsKeptUntilTheyAreBack(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	r.Steps[0].Cues = append(r.Steps[0].Cues, reveal.Cue{
		ID: "off", Kind: reveal.KindFade, Targets: []assembly.NodeID{"pump-head/door"}, Duration: reveal.Second,
		Easing: reveal.Linear, Muted: true, Fade: &reveal.Fade{To: 0.2},
	})
	require.NoError(t, reveal.Validate(r, a))
	before := reveal.Clone(r)
	rest := *a
	rest.Nodes = nil
	place := map[int]int{}
	for i, n := range a.Nodes {
		_, there := place[n.Parent]
		if n.ID == "pump-head/door" || i > 0 && !there {
			continue
		}
		if i > 0 {
			n.Parent = place[n.Parent]
		}
		place[i] = len(rest.Nodes)
		rest.Nodes = append(rest.Nodes, n)
	}
	rest.Joints, rest.Couplings = assembly.JointsThat(a.Joints, a.Couplings, func(j *assembly.Joint) bool {
		_, body := rest.Index()[j.Body]
		return body
	})
	require.NoError(t, rest.Check())
	lines := strings.Join(reveal.Carry(r, &rest), "\n")
	assert.Contains(t, lines, `step 1 "Open the door": a turn is kept, switched off: nothing that it acts on is left`)
	require.NoError(t, reveal.Validate(r, &rest), "it stands in a valid document")
	assert.True(t, r.Lost())
	s, k := r.FindCue("off")
	assert.Equal(t, reveal.LostOff, r.Steps[s].Cues[k].Lost)
	film.Compile(&rest, r) // what is switched off does nothing, whatever it names
	assert.Empty(t, reveal.Carry(r, &rest), "there is nothing more to tell")

	on := reveal.Clone(r)
	on.Steps[s].Cues[k].Muted = false
	assert.ErrorContains(t, reveal.Validate(on, &rest), "give it other parts before it is switched on")
	foreign := reveal.Clone(r)
	reveal.Match(foreign, &rest)
	assert.False(t, foreign.Lost(), "a reveal from elsewhere keeps none of them")

	lines = strings.Join(reveal.Carry(r, a), "\n")
	assert.Contains(t, lines, "a turn goes on: what it acts on is back")
	assert.True(t, slices.EqualFunc(before.Steps[0].Cues, r.Steps[0].Cues, func(a, b reveal.Cue) bool {
		return reflect.DeepEqual(a, b)
	}), "they are as they were")
}

// The example as the former format had it is the example.
func TestAReadDocumentOfTheFormerFormatIsOfThisOne(t *testing.T) {
	text, err := os.ReadFile("testdata/format1.json")
	require.NoError(t, err)
	r, err := reveal.Parse(text)
	require.NoError(t, err)
	assert.Equal(t, string(reveal.Write(demo.Teardown(demo.Pump().Assembly))), string(reveal.Write(r)))
	again, err := reveal.Upgrade(reveal.Write(r))
	require.NoError(t, err)
	assert.JSONEq(t, string(reveal.Write(r)), string(again), "twice is once")
}

// What means something else under the same name stays: a framing's width, and the limits of checks.
func TestUpgradingRenamesWhatWasRenamed(t *testing.T) {
	for former, now := range map[string]string{
		`{"pull":{"axes":"other","across":{"along":[0,1,0],"distance":3.10}}}`:                                                               `{"pull":{"axes":"reference","secondary":{"along":[0,1,0],"distance":3.10}}}`,
		`{"shot":{"even":true,"keep":{"nodes":["keep"],"margin":0},"shapes":[{"across":9,"down":16,"camera":{"lens":35,"parallel":true}}]}}`: `{"shot":{"constantSpeed":true,"follow":{"nodes":["keep"],"margin":0},"shapes":[{"across":9,"down":16,"camera":{"focalLength":35,"orthographic":true}}]}}`,
		`{"op":"batch","commands":[{"op":"lengthen","by":9007199254740993}]}`:                                                                `{"op":"batch","commands":[{"op":"changeDuration","by":9007199254740993}]}`,
		`{"op":"setOpening","opening":{"leftOut":["length"]}}`:                                                                               `{"op":"setOpening","opening":{"suppressed":["length"]}}`,
		`{"captions":{"ground":true},"proof":{"limits":{"length":1}}}`:                                                                       `{"captions":{"backing":true},"proof":{"limits":{"length":1}}}`,
	} {
		got, err := reveal.Upgrade([]byte(former))
		require.NoError(t, err)
		assert.JSONEq(t, now, string(got))
		if strings.Contains(former, "9007") {
			assert.Contains(t, string(got), "9007199254740993", "more digits than a double has")
		}
	}
	_, err := reveal.Upgrade([]byte(`{`))
	assert.ErrorContains(t, err, "an earlier version")
}

func TestADraftIsSmallAndAsLargeAsThePictureIsWide(t *testing.T) {
	for _, c := range []struct{ of, is reveal.Frame }{
		{reveal.Frame{Width: 1920, Height: 1080, Rate: 30}, reveal.Frame{Width: 640, Height: 360, Rate: 15}},
		{reveal.Frame{Width: 1080, Height: 1920, Rate: 12}, reveal.Frame{Width: 360, Height: 640, Rate: 12}},
		{reveal.Frame{Width: 320, Height: 200, Rate: 60, NoOcclusion: true}, reveal.Frame{Width: 320, Height: 200, Rate: 15, NoOcclusion: true}},
		{reveal.Frame{Width: 4096, Height: 32, Rate: 24}, reveal.Frame{Width: 640, Height: 16, Rate: 15}},
		{reveal.Frame{Width: 1922, Height: 1082, Rate: 25}, reveal.Frame{Width: 640, Height: 360, Rate: 15}},
	} {
		assert.Equal(t, c.is, c.of.Draft())
	}
}

func TestNumbersAreWrittenAsTheyAreRead(t *testing.T) {
	for v, want := range map[float64]string{0: "0", 12.5: "12.5", 1.0 / 3: "0.33", -40: "−40", 1234.567: "1234.57", -0.001: "0", 0.999: "1", -0.996: "−1"} {
		assert.Equal(t, want, reveal.Number(v))
	}
}
