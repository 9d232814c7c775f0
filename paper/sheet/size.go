package sheet

import (
	"fmt"
	"slices"
)

// Size is a size of paper by its name, such as "A3", or "B" for ANSI.
type Size string

// sizes are widths and heights of sheets that lie, mm: ISO 216 and 5457; ANSI/ASME Y14.1 (8.5 × 11 inches and doubles;
// from memory).
var sizes = map[Size][2]float64{
	"A4": {297, 210}, "A3": {420, 297}, "A2": {594, 420}, "A1": {841, 594}, "A0": {1189, 841},
	"ANSI A": {
		279.4,
		215.9,
	}, "ANSI B": {431.8, 279.4}, "ANSI C": {558.8, 431.8}, "ANSI D": {863.6, 558.8}, "ANSI E": {1117.6, 863.6},
}

// Sizes are the names of the sizes, from small to large.
func Sizes() []Size {
	return []Size{"A4", "A3", "A2", "A1", "A0", "ANSI A", "ANSI B", "ANSI C", "ANSI D", "ANSI E"}
}

// Of returns width and height in mm. An A4 sheet stands (ISO 5457), all others lie, unless upright says otherwise.
func (s Size) Of(upright *bool) (width, height float64, err error) {
	size, ok := sizes[s]
	if !ok {
		return 0, 0, fmt.Errorf("there is no sheet of the size %q; there are %v", s, Sizes())
	}
	stands := s == "A4" || s == "ANSI A"
	if upright != nil {
		stands = *upright
	}
	if stands {
		size[0], size[1] = size[1], size[0]
	}
	return size[0], size[1], nil
}

// scales are those of ISO 5455, as paper over real size.
var scales = []float64{
	50,
	20,
	10,
	5,
	2,
	1,
	1. / 2,
	1. / 5,
	1. / 10,
	1. / 20,
	1. / 50,
	1. / 100,
	1. / 200,
	1. / 500,
	1. / 1000,
	1. / 2000,
	1. / 5000,
	1. / 10000,
}

// fitting returns the largest standard scale that is not larger than the given one.
func fitting(most float64) float64 {
	if i := slices.IndexFunc(scales, func(s float64) bool { return s <= most*(1+1e-9) }); i >= 0 {
		return scales[i]
	}
	return most
}

// scaleName writes a scale as drawings do: 2 : 1, 1 : 5.
func scaleName(s float64) string {
	if s >= 1 {
		return fmt.Sprintf("%.4g : 1", s)
	}
	return fmt.Sprintf("1 : %.4g", 1/s)
}
