package reveal

import (
	"encoding/json"
	"fmt"
)

// Easing says how a cue's progress follows time: one of the named curves, or
// the two inner points x1, y1, x2, y2 of a cubic Bézier curve from (0, 0) to
// (1, 1) (W3C CSS Easing Functions 1). In JSON it is a name or an array.
type Easing struct {
	Name   string
	Bezier [4]float64
}

// The named easings; the curves are those of the CSS keywords linear,
// ease-in-out, ease-in and ease-out.
var (
	Linear = Easing{Name: "linear"}
	Smooth = Easing{Name: "smooth"}
	In     = Easing{Name: "in"}
	Out    = Easing{Name: "out"}
)

var named = map[string][4]float64{
	"linear": {0, 0, 1, 1},
	"smooth": {.42, 0, .58, 1},
	"in":     {.42, 0, 1, 1},
	"out":    {0, 0, .58, 1},
}

// Points returns the inner points of the curve.
func (e Easing) Points() [4]float64 {
	if p, ok := named[e.Name]; ok {
		return p
	}
	return e.Bezier
}

// MarshalJSON writes the name, or the four numbers of a curve of one's own.
func (e Easing) MarshalJSON() ([]byte, error) {
	if e.Name != "" {
		return json.Marshal(e.Name)
	}
	return json.Marshal(e.Bezier)
}

// UnmarshalJSON reads what MarshalJSON writes.
func (e *Easing) UnmarshalJSON(b []byte) error {
	*e = Easing{}
	if len(b) > 0 && b[0] == '"' {
		if err := json.Unmarshal(b, &e.Name); err != nil {
			return err
		}
		if _, ok := named[e.Name]; !ok {
			return fmt.Errorf("easing %q is not known; there are linear, smooth, in, out, or four numbers", e.Name)
		}
		return nil
	}
	var four []float64
	if err := json.Unmarshal(b, &four); err != nil || len(four) != 4 {
		return fmt.Errorf("an easing is a name or four numbers x1, y1, x2, y2")
	}
	e.Bezier = [4]float64(four)
	if x1, x2 := four[0], four[2]; !(x1 >= 0 && x1 <= 1 && x2 >= 0 && x2 <= 1) {
		return fmt.Errorf("an easing's x1 and x2 must lie between 0 and 1; they are %g and %g", x1, x2)
	}
	return nil
}
