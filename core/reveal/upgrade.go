package reveal

import (
	"bytes"
	"encoding/json"
	"fmt"
)

// former is the format whose names Upgrade knows.
const former = "slowreveal/reveal/1"

// Names are what JSON calls otherwise since an earlier version.
type Names struct {
	// Fields are the new names of fields, by the former ones.
	Fields map[string]string
	// Values are the new words of texts, by their (former) field and the former words.
	Values map[string]map[string]string
}

// formerNames are what has been renamed since the former format. None of it means anything else in a document or a
// command, but for a framing's "across", which is a number.
var formerNames = Names{
	Fields: map[string]string{
		"lens":     "focalLength",
		"parallel": "orthographic",
		"even":     "constantSpeed",
		"keep":     "follow",
		"across":   "secondary",
		"ground":   "backing",
		"leftOut":  "suppressed",
		"length":   "duration",
	},
	Values: map[string]map[string]string{
		"format": {former: Format},
		"axes":   {"other": string(ReferenceAxes)},
		"op":     {"lengthen": "changeDuration"},
	},
}

// Upgrade rewrites a document of the former format, or a command (core/edit) on one, in this version's words. What is
// in this version's words already stays as it is.
func Upgrade(data []byte) ([]byte, error) { return formerNames.Rewrite(data) }

// Rewrite renames what one JSON value holds, at every depth; numbers keep their digits.
func (n *Names) Rewrite(data []byte) ([]byte, error) {
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	var v any
	if err := d.Decode(&v); err != nil {
		return nil, fmt.Errorf("reading what an earlier version wrote: %w", err)
	}
	return json.Marshal(n.rewritten(v))
}

func (n *Names) rewritten(v any) any {
	switch v := v.(type) {
	case []any:
		for i := range v {
			v[i] = n.rewritten(v[i])
		}
	case map[string]any:
		out := make(map[string]any, len(v))
		for key, value := range v {
			if key == "limits" { // by the names of the proof's checks
				out[key] = value
				continue
			}
			if text, ok := value.(string); ok {
				if now, ok := n.Values[key][text]; ok {
					value = now
				}
			}
			if _, number := value.(json.Number); !number || key != "across" {
				if now, ok := n.Fields[key]; ok {
					key = now
				}
			}
			out[key] = n.rewritten(value)
		}
		return out
	}
	return v
}
