package film

import (
	"math"
	"slices"

	"slowreveal/core/reveal"
)

// Shaped returns the film for frames of another shape, width over height. What a shot shows of the parts in the
// reveal's own frame, from when it stands until the next one begins, it shows in that shape too, inside the safe area:
// its camera steps back for that, along its line of sight, unless the shot has a camera for that shape. With fill
// cameras stay where they are, and what is outside of the other shape is cut off. Shots that follow parts frame them
// anew either way.
func (f *Film) Shaped(aspect float64, fill bool) *Film {
	if math.Abs(aspect-f.aspect) <= reveal.AlikeShapes*f.aspect {
		return f
	}
	g := compile(f.Assembly, f.Reveal, aspect)
	if !fill {
		g.stepBack(f)
	}
	g.placeNotes()
	return g
}

// stand is the time in which a view stands: that of a shot, or with −1 of the opening.
type stand struct {
	shot     int
	from, to reveal.Micros
}

// stands are the times between the shots, in their order.
func (f *Film) stands() []stand {
	list := []stand{{-1, 0, f.Schedule.Duration}}
	for i := range f.shots {
		if s := &f.shots[i]; !s.orbit {
			b := &f.tracks[s.track]
			list = append(list, stand{i, reveal.Micros(b.start + b.duration), f.Schedule.Duration})
		}
	}
	begins := func(s stand) float64 {
		if s.shot < 0 {
			return -1
		}
		return f.tracks[f.shots[s.shot].track].start
	}
	slices.SortStableFunc(list, func(a, b stand) int { return int(begins(a) - begins(b)) })
	for k := range len(list) - 1 {
		list[k].to = max(list[k].from, reveal.Micros(begins(list[k+1])))
	}
	return list
}

// samples is at how many moments of a view it is looked at what it shows.
const samples = 6

// stepBack moves the cameras of a film of another shape so far away that they show what those of the film in its own
// shape show.
func (f *Film) stepBack(own *Film) {
	fr := own.NewFrame()
	f.shots = slices.Clone(f.shots)
	for _, s := range own.stands() {
		if s.shot >= 0 && (f.shots[s.shot].follow != nil || f.shots[s.shot].framed) {
			continue
		}
		back := 1.0
		for k := range samples {
			own.evaluateScene(s.from+reveal.Micros(float64(s.to-s.from)*float64(k)/(samples-1)), fr)
			back = max(back, f.back(own, fr))
		}
		if s.shot < 0 {
			f.opening.Distance *= back
			continue
		}
		shot := &f.shots[s.shot]
		shot.camera.Distance *= back
		shot.via = slices.Clone(shot.via)
		for k := range shot.via {
			shot.via[k].Distance *= back
		}
	}
}

// back is how many times as far away the camera of a frame has to stand for what it shows in the own shape to lie
// inside the safe area of this one.
func (f *Film) back(own *Film, fr *Frame) float64 {
	sight := ProjectionOf(fr.Camera, own.aspect)
	across, up := 0.0, 0.0 // of half the own frame
	for _, a := range own.onScreen(fr, &sight) {
		if a.Right < 0 || a.Left > 1 || a.Bottom < 0 || a.Top > 1 {
			continue
		}
		across = max(across, math.Abs(max(a.Left, 0)-0.5), math.Abs(min(a.Right, 1)-0.5))
		up = max(up, math.Abs(max(a.Top, 0)-0.5), math.Abs(min(a.Bottom, 1)-0.5))
	}
	h, v := Field(fr.Camera.FocalLength, own.aspect)
	toH, toV := Field(fr.Camera.FocalLength, f.aspect)
	room := 1 - 2*safe
	back := max(1, 2*across*h/(room*toH), 2*up*v/(room*toV))
	for range 20 { // what is farther away than what is looked at comes nearer to the middle more slowly
		c := fr.Camera
		c.Distance *= back
		if f.shows(own, fr, &sight, ProjectionOf(c, f.aspect)) {
			break
		}
		back *= 1.03
	}
	return back
}

// shows reports whether the parts that are wholly seen from one place are inside the safe area from another.
func (f *Film) shows(own *Film, fr *Frame, from *Projection, to Projection) bool {
	for i := range f.Assembly.Nodes {
		if !f.Assembly.Nodes[i].IsPart() || fr.Opacity[i] <= 0 {
			continue
		}
		b := own.partBox(i)
		whole, inside := true, true
		for k := 0; k < 8 && whole; k++ {
			p := fr.World[i].Apply(b.Corner(k))
			x, y, front := from.Project(p)
			whole = front && x >= 0 && x <= 1 && y >= 0 && y <= 1
			x, y, front = to.Project(p)
			inside = inside && front && x >= safe && x <= 1-safe && y >= safe && y <= 1-safe
		}
		if whole && !inside {
			return false
		}
	}
	return true
}

// unit is what sizes of words are shares of, as shares of the frame's width and of its height: its shorter side.
func unit(aspect float64) (across, down float64) {
	down = min(1, aspect)
	return down / aspect, down
}
