package reveal

import (
	"fmt"
	"math"
	"slices"

	"slowreveal/core/assembly"
)

// Shot takes the camera somewhere; it then holds until the next shot.
type Shot struct {
	Name   string `json:"name,omitempty"`
	Camera Camera `json:"camera"`
	// Via are cameras that it passes on the way, along a smooth curve.
	Via []Camera `json:"via,omitempty"`
	// ConstantSpeed passes them at a constant speed; otherwise each part of the way takes
	// the same time.
	ConstantSpeed bool `json:"constantSpeed,omitempty"`
	// Straight goes along the straight line instead of the arc about what is
	// looked at. It does not go with Via.
	Straight bool `json:"straight,omitempty"`
	// Follow, when set, makes the camera follow: from where the shot looks, parts
	// stay inside the frame until the next shot.
	Follow *Follow `json:"follow,omitempty"`
	// Shapes are cameras in the place of this one in frames of other shapes.
	Shapes []Framing `json:"shapes,omitempty"`
}

// Framing is the camera of a shot in frames of one shape.
type Framing struct {
	// Across and Down are the shape: the frame's width to its height.
	Across int    `json:"across"`
	Down   int    `json:"down"`
	Camera Camera `json:"camera"`
}

// AlikeShapes is by what share two aspects may differ and still be one shape: sizes are whole, even pixels.
const AlikeShapes = 0.004

// Framed returns the camera of a shot in frames of a shape, width over height, and whether it is one of their own.
func (s *Shot) Framed(aspect float64) (Camera, bool) {
	for i := range s.Shapes {
		f := &s.Shapes[i]
		if of := float64(f.Across) / float64(f.Down); math.Abs(of-aspect) <= AlikeShapes*aspect {
			return f.Camera, true
		}
	}
	return s.Camera, false
}

// Follow names what stays inside the frame.
type Follow struct {
	// Nodes are the parts and subassemblies; none means all that is seen.
	Nodes []assembly.NodeID `json:"nodes,omitempty"`
	// Margin is the share of the frame's half that stays empty around them.
	Margin float64 `json:"margin"`
}

// Label is its name.
func (s *Shot) Label() string { return s.Name }

func (s *Shot) clone() Settings {
	own := *s
	own.Via, own.Shapes = slices.Clone(s.Via), slices.Clone(s.Shapes)
	if s.Follow != nil {
		own.Follow = &Follow{Nodes: slices.Clone(s.Follow.Nodes), Margin: s.Follow.Margin}
	}
	return &own
}

func (s *Shot) validate(v *validator, path string) {
	v.text(path+".name", s.Name, 0, MaxTitle)
	v.camera(path+".camera", &s.Camera)
	v.want(len(s.Via) <= MaxViews, path+".via", "there are %d; the limit is %d", len(s.Via), MaxViews)
	for i := range s.Via {
		v.camera(fmt.Sprintf("%s.via[%d]", path, i), &s.Via[i])
	}
	v.want(!s.Straight || len(s.Via) == 0, path+".straight", "a way through several views is a curve")
	v.framings(path+".shapes", s.Shapes)
	if k := s.Follow; k != nil {
		v.targets(path+".follow.nodes", k.Nodes, false)
		v.want(k.Margin >= 0 && k.Margin <= 0.9, path+".follow.margin", "%g is not between 0 and 0.9", k.Margin)
	}
}

func (v *validator) framings(path string, list []Framing) {
	v.want(len(list) <= MaxFramings, path, "there are %d; the limit is %d", len(list), MaxFramings)
	seen := map[[2]int]bool{}
	for i := range list {
		at, f := fmt.Sprintf("%s[%d]", path, i), &list[i]
		v.want(
			f.Across >= 1 && f.Across <= MaxSide && f.Down >= 1 && f.Down <= MaxSide,
			at,
			"%d : %d is not a shape of numbers from 1 to %d",
			f.Across,
			f.Down,
			MaxSide,
		)
		shape := [2]int{f.Across, f.Down}
		v.want(!seen[shape], at, "there are two for %d : %d", f.Across, f.Down)
		seen[shape] = true
		v.camera(at+".camera", &f.Camera)
	}
}
