package render

import (
	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// viewCamera is the camera of a view. Where the lines of sight are parallel,
// points are bent in such a way that seeing them from the eye gives the parallel
// picture: a projective change of space, which keeps planes and straight lines, so
// that everything behind it is one path.
type viewCamera struct {
	eye          space.Rigid // camera → world
	tanH, tanV   float64
	orthographic bool
	distance     float64 // to what is looked at, mm; 0 unless parallel
	depth        float64 // 1/z grows by 1/distance over this, mm
}

// orthographicDepth is how many diagonals of the assembly a parallel picture's depth
// reaches: much, so that bent triangles stay nearly what they were, and little
// enough for 32 bits.
const orthographicDepth = 50

func (s *Scene) camera(c reveal.Camera, aspect float64) viewCamera {
	v := viewCamera{eye: film.Eye(c)}
	v.tanH, v.tanV = film.Field(c.FocalLength, aspect)
	if c.Orthographic {
		v.orthographic, v.distance, v.depth = true, c.Distance, s.depth
	}
	return v
}

// toPerspective takes a point of the camera's frame to where the eye sees it.
func (c *viewCamera) toPerspective(p [3]float32) [3]float32 {
	if !c.orthographic {
		return p
	}
	near := max(1+(float64(p[2])+c.distance)/c.depth, 0.1) // 1/z, times the distance
	return [3]float32{float32(float64(p[0]) / near), float32(float64(p[1]) / near), float32(-c.distance / near)}
}

// allToPerspective bends vertices.
func (c *viewCamera) allToPerspective(list []vertex) {
	if !c.orthographic {
		return
	}
	for i := range list {
		list[i].at = c.toPerspective(list[i].at)
	}
}

// pull scales how far edges are drawn towards the eye, as a share of the
// distance, to the camera's space.
func (c *viewCamera) pull(share float64) float64 {
	if c.orthographic {
		return share * c.distance / c.depth
	}
	return share
}

// cameraDistance is how far in front of the eye a point of the bent space is, mm, given 1/z there.
func (c *viewCamera) cameraDistance(w float32) float64 {
	if c.orthographic {
		return c.distance - (float64(w)*c.distance-1)*c.depth
	}
	return 1 / float64(w)
}

// hides reports whether something solid in the last picture that is not the note's lies before what it points at:
// clearly so, in all pixels around it. What lies outside of the picture is not hidden.
func (r *Renderer) hides(v *View, n *film.Note) bool {
	inverse := v.Camera.eye.Inverse()
	far := -inverse.Apply(n.At.Vec()).Z
	px, py := int(n.AnchorX*float64(r.width)), int(n.AnchorY*float64(r.height))
	if px < noteReach || py < noteReach || px >= r.width-noteReach || py >= r.height-noteReach {
		return false
	}
	for dy := -noteReach; dy <= noteReach; dy++ {
		for dx := -noteReach; dx <= noteReach; dx++ {
			at := (py+dy)*r.width + px + dx
			w := r.depth[at]
			if w == 0 || r.scene.isIn(r.ids[at], n.Node) ||
				v.Camera.cameraDistance(w) > far-look.Words.NoteSlack-look.Words.NoteSlackOf*far {
				return false
			}
		}
	}
	return true
}

// noteReach is how many pixels on each side of what is noted are looked at.
const noteReach = 1

// isIn reports whether a node is another one or in it.
func (s *Scene) isIn(node int32, in assembly.NodeID) bool {
	for ; node >= 0; node = int32(s.assembly.Nodes[node].Parent) {
		if s.assembly.Nodes[node].ID == in {
			return true
		}
	}
	return false
}

// MarkHidden tells of notes whether something solid in the last picture lies before what they point at. Watch must have
// been told of them before it.
func (r *Renderer) MarkHidden(v *View, notes []film.Note) {
	for i := range notes {
		notes[i].Hidden = r.hides(v, &notes[i])
	}
}

// reach returns half of what is seen at a depth (mm in front of the eye), across
// and up, mm.
func (c *viewCamera) reach(depth float64) (across, up float64) {
	if c.orthographic {
		depth = c.distance
	}
	return depth * c.tanH, depth * c.tanV
}
