package film

import (
	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// shot is one cue of the camera.
type shot struct {
	track         int
	camera        reveal.Camera
	framed        bool // the camera is that for frames of this shape
	follow        *reveal.Follow
	nodes         []int32 // what keep names, as nodes
	via           []reveal.Camera
	constantSpeed bool
	straight      bool // along the straight line

	orbit   bool
	axis    space.Vec // of unit length, in the world
	degrees float64
}

func (f *Film) addShot(cue *reveal.Cue, b track, index map[assembly.NodeID]int) {
	s := shot{track: len(f.tracks)}
	if o := cue.Orbit; o != nil {
		s.orbit = true
		s.axis, _ = space.Normalize(o.About.Vec())
		s.degrees = o.Degrees
	}
	if cue.Shot != nil {
		s.follow = cue.Shot.Follow
		s.camera, s.framed = cue.Shot.Framed(f.aspect)
		s.via, s.constantSpeed, s.straight = cue.Shot.Via, cue.Shot.ConstantSpeed, cue.Shot.Straight
	}
	if s.follow != nil {
		for _, id := range s.follow.Nodes {
			s.nodes = append(s.nodes, int32(index[id]))
		}
	}
	f.shots = append(f.shots, s)
	f.tracks = append(f.tracks, b)
}

// take moves the frame's camera on by this shot. What the shot before an orbit keeps in the frame stays there
// while the camera circles.
func (s *shot) take(f *Film, fr *Frame, before *shot) {
	u := fr.progress[s.track]
	if s.orbit {
		fr.Camera = circle(fr.Camera, s.axis, s.degrees*u)
		if before != nil && u > 0 {
			before.keepFramed(f, fr, fr.progress[before.track])
		}
		return
	}
	fr.Camera = s.way(fr.Camera, u)
	s.keepFramed(f, fr, u)
}

// keepFramed brings the frame's camera as near to what a shot keeps as the shot has got on.
func (s *shot) keepFramed(f *Film, fr *Frame, u float64) {
	if s.follow == nil || u <= 0 {
		return
	}
	fr.around = f.kept(s, fr, fr.around[:0])
	fitted, err := Fit(fr.Camera, f.aspect, s.follow.Margin, fr.around)
	if err == nil { // where nothing is seen there is nothing to follow
		fr.Camera = Blend(fr.Camera, fitted, min(u, 1))
	}
}

// way returns the camera after the progress u from where it was.
func (s *shot) way(from reveal.Camera, u float64) reveal.Camera {
	switch {
	case s.straight:
		return straight(from, s.camera, u)
	case len(s.via) == 0:
		return Blend(from, s.camera, u)
	}
	w := curveOfViews{from, s.via, s.camera}
	if s.constantSpeed {
		u = w.atConstantSpeed(u)
	}
	return w.at(u)
}

// kept returns the boxes of what a shot keeps in the frame, in the world.
func (f *Film) kept(s *shot, fr *Frame, boxes []space.Box) []space.Box {
	if len(s.nodes) == 0 {
		for i := range f.Assembly.Nodes {
			if f.Assembly.Nodes[i].IsPart() && fr.Opacity[i] > 0 {
				boxes = append(boxes, f.partBox(i).Moved(&fr.World[i]))
			}
		}
		return boxes
	}
	for i := range f.Assembly.Nodes {
		if !f.Assembly.Nodes[i].IsPart() || fr.Opacity[i] <= 0 {
			continue
		}
		for _, n := range s.nodes {
			if f.below(i, int(n)) {
				boxes = append(boxes, f.partBox(i).Moved(&fr.World[i]))
				break
			}
		}
	}
	return boxes
}

func (f *Film) partBox(i int) space.Box { return f.Assembly.Shapes[f.Assembly.Nodes[i].Shape].Bounds() }

func (f *Film) below(i, top int) bool {
	for ; i >= 0; i = f.Assembly.Nodes[i].Parent {
		if i == top {
			return true
		}
	}
	return false
}

// circle turns a camera about what it looks at. After whole turns it is where it
// was, to the bit.
func circle(c reveal.Camera, axis space.Vec, degrees float64) reveal.Camera {
	turn := space.AxisAngle(axis, degrees)
	if turn == space.Identity3 {
		return c
	}
	r := c.Orientation.Normalized().Matrix()
	r = turn.Mul(&r)
	c.Orientation = r.Quat()
	return c
}
