package formats

import (
	"math"

	"slowreveal/core/product"
)

// What products measure as a rule, mm: from a watch screw to a ship (common practice, no source). Of
// several units that would do, the one counts with which the size is nearest to a hand's.
const (
	smallest, largest = 5.0, 20_000.0
	handy             = 300.0
)

// doubt looks at an assembly of a size, mm, that was read in a unit.
func doubt(size float64, read Unit) *product.Doubt {
	if size >= smallest && size <= largest || read.Millimetres <= 0 {
		return nil
	}
	d := &product.Doubt{Size: size}
	best := math.Inf(1)
	for _, u := range Units {
		would := size / read.Millimetres * u.Millimetres
		if would < smallest || would > largest {
			continue
		}
		if off := math.Abs(math.Log(would / handy)); off < best {
			best, d.Likely, d.Unit = off, would, u.Symbol
		}
	}
	return d
}
