package look

import "math"

// Occlusion says how surfaces that come near one another darken each other: ambient occlusion from the depth of the
// picture, after McGuire, Osman, Bukowski, Hennessy, “The Alchemy Screen-Space Ambient Obscurance Algorithm” (2011). It
// is found on cells that are a fixed share of the frame's shorter side, whatever the picture's size, and laid over
// surfaces by their depth. docs/look.md has the formula.
type Occlusion struct {
	// Cells is how many cells the frame's shorter side has.
	Cells int `json:"cells"`
	// Reach is how far surfaces darken each other, as a share of the assembly's diagonal.
	Reach float64 `json:"reach"`
	// Most is the largest reach on the screen, in cells: what is farther is looked at when one comes very near.
	Most float64 `json:"most"`
	// Bias is the sine of the height above a surface below which nothing darkens it: facets of one round surface.
	Bias float64 `json:"bias"`
	// Gain is what the mean over the taps is multiplied with; Least is taken from that, so that what is nearly as
	// bright as ever is so.
	Gain  float64 `json:"gain"`
	Least float64 `json:"least"`
	// First is the reach on the screen, in cells, below which nothing is darkened; up to twice of it little is.
	First float64 `json:"first"`
	// Apart times the distance in depth between a pixel and a cell, over the reach, is what the cell no longer counts
	// there; Rest is what it counts at least.
	Apart float64 `json:"apart"`
	Rest  float64 `json:"rest"`
	// Strength is by how much of its display value a wholly occluded surface becomes darker.
	Strength float64 `json:"strength"`
	// Taps are where it is looked, as shares of the reach on the screen: right and up.
	Taps [OcclusionTaps][2]float64 `json:"taps"`
}

// Numbers of Paper's occlusion that a renderer may build upon: at how many places each cell looks, and the fields
// First, Apart and Rest.
const (
	OcclusionTaps  = 16
	OcclusionFirst = 0.75
	OcclusionApart = 4
	OcclusionRest  = 1e-3
)

// Grid returns how many cells a picture has.
func (o *Occlusion) Grid(width, height int) (across, down int) {
	cell := float64(min(width, height)) / float64(o.Cells)
	return max(int(math.Ceil(float64(width)/cell)), 1), max(int(math.Ceil(float64(height)/cell)), 1)
}

// taps lie on a spiral, evenly over the disc of the reach: the golden angle from one to the next (Vogel 1979, “A better
// way to construct the sunflower head”).
func taps() (list [OcclusionTaps][2]float64) {
	golden := math.Pi * (3 - math.Sqrt(5))
	for i := range list {
		radius := math.Sqrt((float64(i) + 0.5) / OcclusionTaps)
		sin, cos := math.Sincos(golden * float64(i))
		list[i] = [2]float64{radius * cos, radius * sin}
	}
	return list
}
