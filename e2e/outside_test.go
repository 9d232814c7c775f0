package e2e

import (
	"bytes"
	"encoding/json"
	"math/rand/v2"
	"os/exec"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// The running reference is the Khronos glTF validator.
func TestTheExampleIsCleanInTheValidator(t *testing.T) {
	path, _ := pumpFile(t)
	out, err := exec.Command("node", "validate.mjs", path).CombinedOutput()
	require.NoError(t, err, string(out))
	var issues struct {
		NumErrors, NumWarnings int
		Messages               []map[string]any
	}
	require.NoError(t, json.Unmarshal(out, &issues))
	assert.Zero(t, issues.NumErrors, issues.Messages)
	assert.Zero(t, issues.NumWarnings, issues.Messages)
}

type coreJob struct {
	Assembly *assembly.Assembly `json:"assembly"`
	Reveals  []*reveal.Reveal   `json:"reveals"`
	Times    []reveal.Micros    `json:"times"`
	Bench    bool               `json:"bench"`
}

type coreAnswer struct {
	Digests  [][]string `json:"digests"`
	MedianAt float64    `json:"medianAt"`
}

func inNode(t *testing.T, job coreJob) coreAnswer {
	t.Helper()
	in, err := json.Marshal(job)
	require.NoError(t, err)
	c := exec.Command("node", "core.mjs")
	c.Stdin = bytes.NewReader(in)
	var said bytes.Buffer
	c.Stderr = &said
	out, err := c.Output()
	require.NoError(t, err, said.String())
	var a coreAnswer
	require.NoError(t, json.Unmarshal(out, &a))
	return a
}

// shaken is the example with all its numbers changed at random.
func shaken(a *assembly.Assembly, r *rand.Rand) *reveal.Reveal {
	doc := reveal.Clone(demo.Teardown(a))
	for i := range doc.Steps {
		for k := range doc.Steps[i].Cues {
			c := &doc.Steps[i].Cues[k]
			if c.Twin != "" {
				continue
			}
			c.Offset, c.Length = reveal.Micros(r.IntN(4e6)), reveal.Micros(1+r.IntN(4e6))
			c.Easing = reveal.Easing{Bezier: [4]float64{r.Float64(), r.NormFloat64(), r.Float64(), r.NormFloat64()}}
			if c.Pull != nil {
				c.Pull.Along, c.Pull.Axes = [3]float64{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}, []reveal.Axes{reveal.Own, reveal.Parent, reveal.Whole}[r.IntN(3)]
			}
			if c.Turn != nil {
				c.Turn.About, c.Turn.Degrees = [3]float64{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}, r.NormFloat64()*2000
			}
		}
	}
	return doc
}

// The browser's core and the native one agree to the bit, on documents that
// nobody chose.
func TestTheBrowsersCoreIsTheServersCore(t *testing.T) {
	_, m := pumpFile(t)
	random := rand.New(rand.NewPCG(8, 8))
	job := coreJob{Assembly: m.Assembly, Reveals: []*reveal.Reveal{demo.Teardown(m.Assembly)}}
	for range 40 {
		job.Reveals = append(job.Reveals, shaken(m.Assembly, random))
	}
	for k := range 25 {
		job.Times = append(job.Times, reveal.Micros(k)*1_777_777)
	}
	answer := inNode(t, job)
	for i, r := range job.Reveals {
		require.NoError(t, reveal.Validate(r, m.Assembly))
		f := film.Compile(m.Assembly, r)
		fr := f.NewFrame()
		for k, at := range job.Times {
			f.At(at, fr)
			require.Equal(t, strconv.FormatUint(fr.Digest(), 16), answer.Digests[i][k], "document %d at %d µs", i, at)
		}
	}
}
