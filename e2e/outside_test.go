package e2e

import (
	"bytes"
	"encoding/json"
	"os/exec"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// The running reference is the Khronos glTF validator.
func TestTheExampleIsCleanInTheValidator(t *testing.T) {
	path, _ := pumpFile(t)
	cleanInTheValidator(t, path)
}

// cleanInTheValidator asks the Khronos validator for errors and warnings.
func cleanInTheValidator(t *testing.T, path string) {
	t.Helper()
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
	Assembly *assembly.Assembly `json:"-"`
	Packed   []byte             `json:"packed"`
	Reveals  []*reveal.Reveal   `json:"reveals"`
	Times    []reveal.Micros    `json:"times"`
	Bench    bool               `json:"bench"`
	Grabs    []map[string]any   `json:"grabs,omitempty"` // editor.Grabbed
}

type coreAnswer struct {
	Digests  [][]string `json:"digests"`
	MedianAt float64    `json:"medianAt"` // ms
	// MedianGrab is what a step of a hand takes that drags, ms.
	MedianGrab float64 `json:"medianGrab"`
}

func inNode(t *testing.T, job coreJob) coreAnswer {
	t.Helper()
	var err error
	job.Packed, err = assembly.Pack(job.Assembly)
	require.NoError(t, err)
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

// The browser's core and the native one agree to the bit, on a thousand documents
// that nobody chose.
func TestTheBrowsersCoreIsTheServersCore(t *testing.T) {
	_, m := pumpFile(t)
	job := coreJob{Assembly: m.Assembly, Reveals: []*reveal.Reveal{demo.Teardown(m.Assembly)}}
	hand := edittest.New(8, m.Assembly)
	documents := 1000
	if testing.Short() {
		documents = 300
	}
	for range documents {
		r := demo.Teardown(m.Assembly)
		hand.Change(r, 15)
		job.Reveals = append(job.Reveals, r)
	}
	for k := range 5 {
		job.Times = append(job.Times, reveal.Micros(k)*8_777_777)
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

// Closed loops, gears and cams come to the same bits in the browser's core, whichever moment is asked for first.
func TestTheBrowsersCoreRunsMechanismsToTheBit(t *testing.T) {
	for _, c := range []struct {
		model  *product.Model
		direct func(*assembly.Assembly) *reveal.Reveal
	}{{demo.Applicator(), demo.Labelling}, {demo.Pump(), demo.Running}} {
		r := c.direct(c.model.Assembly)
		f := film.Compile(c.model.Assembly, r)
		job := coreJob{Assembly: c.model.Assembly, Reveals: []*reveal.Reveal{r}}
		for k := range 60 {
			job.Times = append(job.Times, reveal.Micros(k*7_654_321)%f.Duration())
		}
		answer := inNode(t, job)
		fr := f.NewFrame()
		for k, at := range job.Times {
			f.At(at, fr)
			require.Equal(t, strconv.FormatUint(fr.Digest(), 16), answer.Digests[0][k], "%s at %d µs", r.Title, at)
		}
	}
}
