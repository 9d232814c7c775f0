package look

import (
	"math"

	"slowreveal/core/space"
)

// Look is a set of numbers for docs/look.md. Light is linear; Ink, BackgroundTop and
// BackgroundBottom are display (sRGB) values 0…1. Directions are in the camera's
// frame (+X right, +Y up, +Z towards the viewer) and of unit length.
type Look struct {
	SkyColour    space.Vec3 `json:"skyColour"`    // light from straight above
	GroundColour space.Vec3 `json:"groundColour"` // light from straight below
	Key          space.Vec3 `json:"key"`
	KeyLight     space.Vec3 `json:"keyLight"`
	Fill         space.Vec3 `json:"fill"`
	FillLight    space.Vec3 `json:"fillLight"`
	Room         Room       `json:"room"` // what surfaces mirror
	// Knee is the linear light up to which brightness is as it is; beyond it tends to 1, so that white in full light
	// keeps its shape.
	Knee             float64    `json:"knee"`
	Ink              space.Vec3 `json:"ink"`
	InkOnDark        space.Vec3 `json:"inkOnDark"` // on dark backgrounds
	BackgroundTop    space.Vec3 `json:"backgroundTop"`
	BackgroundBottom space.Vec3 `json:"backgroundBottom"`
	// EdgeWidth and ContourWidth are in pixels of a frame with 1080 lines: wide and narrow lines are nearly 2 : 1 (ISO
	// 128-2).
	EdgeWidth    float64 `json:"edgeWidth"`
	ContourWidth float64 `json:"contourWidth"`
	// EdgeLeast is how thin inner lines become in small pictures, in pixels; contours keep their ratio to them.
	EdgeLeast float64 `json:"edgeLeast"`
	// LineRoom is the share of the gap between two lines that either takes at most: where lines are dense, they
	// become thin and leave the surface its colour.
	LineRoom float64 `json:"lineRoom"`
	// Slant is how much narrower gaps between lines become at most where the surface turns away: lines at a limb are an
	// outline, too.
	Slant float64 `json:"slant"`
	// Rim is how much of what a see-through finish lets through it keeps back where its surface is seen along itself,
	// 0…1.
	Rim float64 `json:"rim"`
	// HiddenEdges is how strong the edges behind faces that are on their way to nothing are, as a share of those in
	// front.
	HiddenEdges float64 `json:"hiddenEdges"`
	// EdgePull moves edges towards the eye by this share of their distance,
	// so that they win over the faces that they lie on.
	EdgePull float64 `json:"edgePull"`
	// Shadow is how dark the contact with the floor is, 0…1.
	Shadow float64 `json:"shadow"`
	// Occlusion is how parts darken each other.
	Occlusion Occlusion `json:"occlusion"`
	// Material is what all finishes have in common, Strip how an edge is drawn.
	Material Material `json:"material"`
	Strip    Strip    `json:"strip"`
}

// Material is what all finishes have in common.
type Material struct {
	// Dielectric is the share of light that a surface mirrors that is no metal, seen from straight above (common practice:
	// a refractive index of 1.5 gives 0.04).
	Dielectric float64 `json:"dielectric"`
	// Mirror is how strong what is mirrored is.
	Mirror float64 `json:"mirror"`
	// Shine is the strength of the key light's reflection, ShineRough by how much less that is on a rough surface.
	Shine      float64 `json:"shine"`
	ShineRough float64 `json:"shineRough"`
	// ShininessLog2 is the base 2 logarithm of that reflection's exponent, ShininessLog2Rough by how much less that is on a
	// rough surface.
	ShininessLog2      float64 `json:"shininessLog2"`
	ShininessLog2Rough float64 `json:"shininessLog2Rough"`
}

// Strip is how an edge is drawn: as a strip that is longer than its line at both ends, by a share of its half width, so
// that strips meet in corners. Thinner ones are left out, pixels.
type Strip struct {
	End        float64 `json:"end"`
	ContourEnd float64 `json:"contourEnd"`
	Thinnest   float64 `json:"thinnest"`
}

// What loops of the renderer are made of, as constants.
const (
	Dielectric         = 0.04
	Mirror             = 1.25
	Shine              = 2.2
	ShineRough         = 1.6
	ShininessLog2      = 7
	ShininessLog2Rough = 6
	ContourEnd         = 0.75
	LineEnd            = 0.5
	Thinnest           = 0.05
)

// Room is what surfaces mirror, as how bright it is in a direction: floor and ceiling, which change at the horizon, and
// a soft box around the directions of the key and of the fill light. All change smoothly over their Wide, upwards from
// From: the sine of the height, or the cosine of the angle to the light.
type Room struct {
	Floor    float64 `json:"floor"`
	Ceiling  float64 `json:"ceiling"` // more than the floor
	From     float64 `json:"from"`
	Wide     float64 `json:"wide"`
	KeyBox   float64 `json:"keyBox"`
	KeyFrom  float64 `json:"keyFrom"`
	KeyWide  float64 `json:"keyWide"`
	FillBox  float64 `json:"fillBox"`
	FillFrom float64 `json:"fillFrom"`
	FillWide float64 `json:"fillWide"`
}

// Shoulder holds linear light beyond the knee back.
func (l *Look) Shoulder(c float64) float64 {
	if c <= l.Knee {
		return c
	}
	return l.Knee + (1-l.Knee)*(1-math.Exp(-(c-l.Knee)/(1-l.Knee)))
}

// Pull returns the share of their distance by which edges are moved towards the
// eye in a picture of so many lines: pixels of smaller pictures cover more.
func (l *Look) Pull(lines float64) float64 {
	return l.EdgePull * min(max(1080/lines, 1), 4)
}

// Widths returns the widths of inner lines and of contours, in pixels, in a picture of so many lines, of which so many
// make up a pixel of the screen.
func (l *Look) Widths(lines, ratio float64) (edge, contour float64) {
	edge = max(l.EdgeWidth*lines/1080, l.EdgeLeast*ratio)
	return edge, edge * l.ContourWidth / l.EdgeWidth
}

// SlantLeast is Default's Slant.
const SlantLeast = 0.3

// Default is the look of this version.
var Default = Look{
	SkyColour:    space.Vec3{0.66, 0.67, 0.69},
	GroundColour: space.Vec3{0.30, 0.285, 0.265},
	Key:          unit(-0.48, 0.68, 0.56),
	KeyLight:     space.Vec3{0.62, 0.605, 0.58},
	Fill:         unit(0.80, 0.05, 0.60),
	FillLight:    space.Vec3{0.13, 0.14, 0.155},
	Room: Room{
		Floor:    0.32,
		Ceiling:  0.82,
		From:     -0.14,
		Wide:     0.5,
		KeyBox:   1.15,
		KeyFrom:  0.72,
		KeyWide:  0.2,
		FillBox:  1,
		FillFrom: 0.7,
		FillWide: 0.22,
	},
	Knee:             0.7,
	Ink:              space.Vec3{0.135, 0.165, 0.175},
	InkOnDark:        space.Vec3{0.86, 0.88, 0.87},
	BackgroundTop:    space.Vec3{0.992, 0.988, 0.976},
	BackgroundBottom: space.Vec3{0.918, 0.898, 0.858},
	EdgeWidth:        1.35, ContourWidth: 2.4, EdgeLeast: 0.75, LineRoom: 0.3, Slant: SlantLeast, Rim: 0.85, HiddenEdges: 0.4,
	EdgePull: 0.0009,
	Shadow:   0.34,
	Occlusion: Occlusion{
		Cells:    135,
		Reach:    0.06,
		Most:     18,
		Bias:     0.1,
		Gain:     4.2,
		Least:    0.03,
		Strength: 0.5,
		First:    OcclusionFirst,
		Apart:    OcclusionApart,
		Rest:     OcclusionRest,
		Taps:     taps(),
	},
	Material: Material{Dielectric, Mirror, Shine, ShineRough, ShininessLog2, ShininessLog2Rough},
	Strip:    Strip{LineEnd, ContourEnd, Thinnest},
}

func unit(x, y, z float64) space.Vec3 {
	v, _ := space.Normalize(space.Vec{X: x, Y: y, Z: z})
	return space.Vec3Of(v)
}
