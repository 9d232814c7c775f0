package reveal

import "bytes"

// FlowLine says how the flow lines of a cue are drawn.
type FlowLine struct {
	Of   FlowOf   `json:"of"`
	Line LineType `json:"line,omitempty"`
	// From and To cut the line: shares of the way, 0 at the seat; To 0 is the end.
	From float64 `json:"from,omitempty"`
	To   float64 `json:"to,omitempty"`
}

// FlowOf says what has a flow line of its own.
type FlowOf string

// What flow lines are drawn of.
const (
	FlowEach FlowOf = "each"  // each target: a part or a subassembly
	FlowPart FlowOf = "parts" // each part in the targets
	FlowAll  FlowOf = "all"   // all targets together
)

// LineType is the look of a line.
type LineType string

// The line types; an empty one is dashed.
const (
	Dashed LineType = "dashed"
	Solid  LineType = "solid"
	Dotted LineType = "dotted"
)

// UnmarshalJSON reads a flow line; true, which older documents have, is the usual
// one.
func (f *FlowLine) UnmarshalJSON(data []byte) error {
	if bytes.Equal(bytes.TrimSpace(data), []byte("true")) {
		*f = FlowLine{Of: FlowEach}
		return nil
	}
	type plain FlowLine
	return strictly(data, (*plain)(f))
}

// Span returns the shares of the way between which the line is drawn.
func (f *FlowLine) Span() (from, to float64) {
	if f.To == 0 {
		return f.From, 1
	}
	return f.From, f.To
}
