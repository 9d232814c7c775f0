package quantity

import "strings"

// Adjust reads text for several values at once: a number for all of them, or a
// change of each: "+0.5", "-=2", "*2", "/3". For a single value a leading plus is a
// sign; "+=" adds to it.
func Adjust(q Kind, text string, old []float64) ([]float64, error) {
	t := strings.NewReplacer("−", "-", "×", "*", "·", "*", "÷", "/").Replace(strings.TrimSpace(text))
	change, of := func(_, v float64) float64 { return v }, q
	cut := func(prefix string, f func(v, by float64) float64) bool {
		rest, ok := strings.CutPrefix(t, prefix)
		if ok {
			t, change = rest, f
		}
		return ok
	}
	add := func(v, by float64) float64 { return v + by }
	switch {
	case cut("+=", add), len(old) > 1 && cut("+", add):
	case cut("-=", func(v, by float64) float64 { return v - by }):
	case cut("*", func(v, by float64) float64 { return v * by }),
		cut("/", func(v, by float64) float64 { return v / by }):
		of = Plain
	}
	by, err := Parse(of, t)
	if err != nil {
		return nil, err
	}
	out := make([]float64, len(old))
	for i, v := range old {
		if out[i] = change(v, by); !finite(out[i]) {
			return nil, errNotFinite
		}
	}
	return out, nil
}
