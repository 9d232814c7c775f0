package fastener

import (
	"fmt"
	"math"
)

// keys: widths across flats of the hexagon sockets of ISO 4762, mm; from memory of the standard.
var keys = map[string]float64{
	"M1.6": 1.5,
	"M2":   1.5,
	"M2.5": 2,
	"M3":   2.5,
	"M4":   3,
	"M5":   4,
	"M6":   5,
	"M8":   6,
	"M10":  8,
	"M12":  10,
	"M16":  14,
	"M20":  17,
	"M24":  19,
}

// hexKey names the key for the socket of a screw of ISO 4762, empty where its size is not known.
func hexKey(thread string) string {
	if width, ok := keys[thread]; ok {
		return fmt.Sprintf("Hex key %g mm", width)
	}
	return ""
}

// wrench names the one for a hexagon of a width across its flats, mm, which is rounded to half a millimetre: ISO 4014,
// 4017 and 4032.
func wrench(flats float64) string { return fmt.Sprintf("Open-end wrench %g mm", math.Round(2*flats)/2) }
