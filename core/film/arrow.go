package film

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// arrow is the way of a point of a node, with a head: it is in the world, and stands while its cue lasts.
type arrow struct {
	node     int
	from, to float64 // film times
	pieces   [][2]space.Vec
	first    int // of its segments in a frame
}

const (
	arrowLooks  = 48     // at how many moments a way is looked at
	arrowFade   = 0.25e6 // µs in which an arrow comes, and goes
	widestTurn  = 300    // degrees: what turns on and on is shown as an open circle
	arrowHead   = 0.2    // of its length, at most arrowMost of the assembly's size
	arrowMost   = 0.026
	arrowWidth  = 0.28   // half of the shaft's width, as a share of the head's length
	arrowWings  = 2.3    // half of the head's width, as a share of that
	leastArrow  = 0.002  // of the assembly's size: what moves less shows nothing
	leastTurn   = 1.5    // degrees in a twelfth of the time, from where on something turns
	arrowOut    = 0.66   // how far from the axis an arrow about it lies, as a share of the part's reach
	usualHeight = 1080.0 // of frames, pixels
	strokeApart = 1.1    // pixels
	mostStrokes = 12.0
	arrowClear  = 1.04 // how far in front of a part it lies, as a share of its half
)

// placeArrows finds the ways that arrows show. All that moves has been compiled.
func (f *Film) placeArrows(index map[assembly.NodeID]int) {
	var fr *Frame
	for i := range f.Schedule.Bars {
		b := &f.Schedule.Bars[i]
		if b.Kind != reveal.KindArrow || b.Muted || b.Retraced {
			continue
		}
		if fr == nil {
			fr = f.NewFrame()
		}
		ahead := b.cue.Arrow.Ahead
		if ahead == 0 {
			ahead = b.cue.Duration
		}
		nodes := make([]int, len(b.cue.Targets))
		for k, target := range b.cue.Targets {
			nodes[k] = index[target]
		}
		together := len(nodes) // those that begin at one time are looked at together
		if b.cue.Stagger != 0 {
			together = 1
		}
		for k := 0; k < len(nodes); k += together {
			f.placeArrowsOf(nodes[k:k+together], b.Start+reveal.Micros(k)*b.cue.Stagger, b.cue.Duration, ahead, fr)
		}
	}
}

// placeArrowsOf finds the ways of nodes over a time from a film time on, which are shown for as long as a cue lasts.
func (f *Film) placeArrowsOf(nodes []int, from, lasts, ahead reveal.Micros, fr *Frame) {
	worlds := make([][]space.Rigid, len(nodes)) // by node, at each look
	for k := range arrowLooks + 1 {
		f.moveTo(max(0, min(from+ahead*reveal.Micros(k)/arrowLooks, f.Schedule.Duration)), fr)
		for i, node := range nodes {
			worlds[i] = append(worlds[i], fr.World[node])
		}
	}
	f.evaluateScene(from, fr)
	camera := fr.Camera
	looks := camera.Orientation.Normalized().Matrix()
	eye := r3.Add(camera.Target.Vec(), looks.Apply(space.Vec{Z: camera.Distance}))
	size := r3.Norm(f.Assembly.Bounds().Size())
	for i, node := range nodes {
		at := worlds[i]
		point := handle(f.boxes[node], at[0], at[arrowLooks/12], at[arrowLooks], eye)
		var way []space.Vec
		for k := range at {
			way = append(way, at[k].Apply(point))
		}
		a := arrow{node: node, from: float64(from), to: float64(from + lasts), first: f.segments}
		a.pieces = drawn(opened(way), size, eye, camera)
		f.segments += len(a.pieces)
		f.arrows = append(f.arrows, a)
	}
}

// handle is the point of a node, in its frame, by which its motion is shown so that it is seen: of what turns, one on the
// side of its box that is nearer to the eye, away from the axis where that leads through the middle; of what is moved, one
// in front of it.
func handle(b space.Box, begin, soon, end space.Rigid, eye space.Vec) space.Vec {
	c, half := b.Centre(), r3.Scale(0.5, b.Size())
	support := func(d space.Vec) float64 {
		return math.Abs(d.X)*half.X + math.Abs(d.Y)*half.Y + math.Abs(d.Z)*half.Z
	}
	back := begin.Inverse()
	by := back.Mul(&soon) // in the node's own frame
	axis, turns := space.Normalize(by.R.Twist())
	if !turns || by.R.Angle() <= leastTurn*math.Pi/180 {
		ahead, ok := space.Normalize(r3.Sub(back.Apply(end.Apply(c)), c))
		if !ok {
			return c
		}
		return r3.Add(c, r3.Scale(support(ahead), ahead))
	}
	if r3.Dot(r3.Sub(back.Apply(eye), c), axis) < 0 {
		axis = r3.Scale(-1, axis)
	}
	p := r3.Add(c, r3.Scale(arrowClear*support(axis), axis))
	if r3.Norm(r3.Sub(by.Apply(c), c)) > 0.1*r3.Norm(half) {
		return p // it goes round something else
	}
	var out space.Vec
	for _, d := range []space.Vec{{X: half.X}, {Y: half.Y}, {Z: half.Z}} {
		if across := r3.Sub(d, r3.Scale(r3.Dot(d, axis), axis)); r3.Norm(across) > r3.Norm(out) {
			out = across
		}
	}
	return r3.Add(p, r3.Scale(arrowOut, out))
}

func wayOf(points []space.Vec) (sum float64) {
	for i := 1; i < len(points); i++ {
		sum += r3.Norm(r3.Sub(points[i], points[i-1]))
	}
	return sum
}

// opened is a way until it has turned so far that its end would run into its beginning.
func opened(points []space.Vec) []space.Vec {
	turned := 0.0
	var last space.Vec
	for i := 1; i < len(points); i++ {
		d, ok := space.Normalize(r3.Sub(points[i], points[i-1]))
		if !ok {
			continue
		}
		if last != (space.Vec{}) {
			turned += math.Acos(max(-1, min(1, r3.Dot(d, last)))) * 180 / math.Pi
		}
		if last = d; turned > widestTurn {
			return points[:i]
		}
	}
	return points
}

// drawn is a way as an arrow, in strokes that fill it as it is seen from where it is shown first: nothing where it is too
// short to be seen. A curved one lies in the plane of its way, a straight one across the line of sight.
func drawn(points []space.Vec, size float64, eye space.Vec, camera reveal.Camera) (list [][2]space.Vec) {
	long := wayOf(points)
	if long < leastArrow*size {
		return nil
	}
	head := min(arrowHead*long, arrowMost*size)
	shaft, tip := cut(points, long-head), points[len(points)-1]
	half := arrowWidth * head
	strokes := strokesFor(half, r3.Norm(r3.Sub(eye, points[0])), camera.FocalLength)
	plane := planeOf(points)
	if plane == (space.Vec{}) {
		plane = r3.Sub(eye, points[0])
	}
	aside := func(i int) space.Vec {
		d := r3.Sub(shaft[min(i+1, len(shaft)-1)], shaft[max(i-1, 0)])
		if i == len(shaft)-1 {
			d = r3.Sub(tip, shaft[i])
		}
		out, _ := space.Normalize(r3.Cross(d, plane))
		return out
	}
	last := len(shaft) - 1
	for k := -strokes; k <= strokes; k++ { // as many as fill it
		share := half * float64(k) / float64(strokes)
		before := r3.Add(shaft[0], r3.Scale(share, aside(0)))
		for i := 1; i < len(shaft); i++ {
			at := r3.Add(shaft[i], r3.Scale(share, aside(i)))
			list = append(list, [2]space.Vec{before, at})
			before = at
		}
		wing := r3.Add(shaft[last], r3.Scale(share*arrowWings, aside(last)))
		list = append(list, [2]space.Vec{wing, tip})
	}
	wing := r3.Scale(half*arrowWings, aside(last))
	return append(list, [2]space.Vec{r3.Sub(shaft[last], wing), r3.Add(shaft[last], wing)})
}

// strokesFor is how many strokes to either side of the middle fill a width, mm, at a distance from the eye, mm, in a frame
// of the height that films usually have.
func strokesFor(half, distance, focalLength float64) int {
	_, up := Field(focalLength, 16.0/9)
	pixel := 2 * distance * up / usualHeight
	return int(max(1, min(mostStrokes, math.Ceil(half/(pixel*strokeApart)))))
}

// cut is a way as far as a length of it.
func cut(points []space.Vec, length float64) []space.Vec {
	out := []space.Vec{points[0]}
	for i := 1; i < len(points); i++ {
		d := r3.Sub(points[i], points[i-1])
		n := r3.Norm(d)
		if n >= length {
			return append(out, r3.Add(points[i-1], r3.Scale(length/math.Max(n, 1e-12), d)))
		}
		if n > 0 {
			out = append(out, points[i])
		}
		length -= n
	}
	return out
}

// planeOf is across the plane in which a way bends, zero for a straight one.
func planeOf(points []space.Vec) (sum space.Vec) {
	var last space.Vec
	for i := 1; i < len(points); i++ {
		d, ok := space.Normalize(r3.Sub(points[i], points[i-1]))
		if !ok {
			continue
		}
		if last != (space.Vec{}) {
			sum = r3.Add(sum, r3.Cross(last, d))
		}
		last = d
	}
	if r3.Norm(sum) < 0.05 {
		return space.Vec{}
	}
	return sum
}

// evaluateArrows fills in the segments of the arrows that stand at the frame's time.
func (f *Film) evaluateArrows(fr *Frame) {
	t := float64(fr.Time)
	for i := range f.arrows {
		a := &f.arrows[i]
		opacity := max(0, min(1, (t-a.from)/arrowFade, (a.to-t)/arrowFade)) * fr.Opacity[a.node]
		start := 0.0
		for k, p := range a.pieces {
			s := Segment{Line: reveal.Solid}
			if opacity > 0 {
				s = Segment{From: p[0], To: p[1], Start: start, Opacity: opacity, Line: reveal.Solid}
			}
			fr.Flow[a.first+k] = s
			start += r3.Norm(r3.Sub(p[1], p[0]))
		}
	}
}
