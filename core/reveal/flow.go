package reveal

import "bytes"

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
