package assembly

import "math"

// Linear takes a display value of 0…1 to linear light. Source: IEC 61966-2-1
// (sRGB), from memory.
func Linear(display float64) float64 {
	if display <= 0.04045 {
		return display / 12.92
	}
	return math.Pow((display+0.055)/1.055, 2.4)
}

// Display takes linear light of 0…1 to a display value: Linear the other way.
func Display(linear float64) float64 {
	if linear <= 0.04045/12.92 {
		return linear * 12.92
	}
	return 1.055*math.Pow(linear, 1/2.4) - 0.055
}
