package paper

import (
	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/render"
)

// AnchorPixels is the usual height of the pictures in which places on parts are looked for.
const AnchorPixels = 640

// perPart is how many places on a part are offered at most.
const perPart = 4

// Anchors finds for every node the places where a leader may begin: where it is seen, deep inside. Coordinates are on
// the page; parts that are seen through count only where nothing solid is seen of them. pixels is the height of the
// picture in which they are looked for.
func (v *View) Anchors(place Place, pixels int) (map[int][]item.Candidate, error) {
	scene, err := v.subject.Scene()
	if err != nil {
		return nil, err
	}
	w := windowOf(v.Camera, v.Min, v.Max)
	eyes, err := render.NewEyesOf(scene, w.aspect(), pixels, 0)
	if err != nil {
		return nil, err
	}
	fr := *v.frame
	fr.Camera, fr.Flow = w.camera, nil
	solid := make([]bool, len(fr.Opacity))
	clear := map[int]bool{}
	for _, p := range v.subject.Parts(v.frame) {
		solid[p.Node] = !p.Clear
		if p.Clear {
			clear[p.Node] = true
		}
	}
	found := map[int][]item.Candidate{}
	v.look(eyes, &fr, solid, &w, place, func(node int) bool { return solid[node] }, found)
	if len(clear) == 0 {
		return found, nil
	}
	if eyes, err = render.NewEyesOf(scene.Opaque(), w.aspect(), pixels, 0); err != nil {
		return nil, err
	}
	for node := range clear {
		solid[node] = true
	}
	v.look(eyes, &fr, solid, &w, place, func(node int) bool { return len(found[node]) == 0 && solid[node] }, found)
	return found, nil
}

// look adds the places on the nodes that are wanted.
func (v *View) look(
	eyes *render.Eyes,
	fr *film.Frame,
	solid []bool,
	w *window,
	place Place,
	wanted func(node int) bool,
	found map[int][]item.Candidate,
) {
	ids := eyes.Nodes(fr, solid, true)
	width, height := eyes.Size()
	room := roomIn(ids, width, height)
	x0, _ := place(linedrawing.Point{})
	x1, _ := place(linedrawing.Point{X: 1})
	mm := (w.max.Y - w.min.Y) / float64(height) * (x1 - x0) // of paper in a pixel
	at := map[int][]int{}
	for i, node := range ids {
		if node >= 0 && wanted(int(node)) {
			at[int(node)] = append(at[int(node)], i)
		}
	}
	for node, pixels := range at {
		for _, i := range deepest(pixels, room, width) {
			x, y := place(linedrawing.Point{
				X: w.min.X + (float64(i%width)+0.5)/float64(width)*(w.max.X-w.min.X),
				Y: w.max.Y - (float64(i/width)+0.5)/float64(height)*(w.max.Y-w.min.Y),
			})
			found[node] = append(
				found[node],
				item.Candidate{Point: item.Point{X: x, Y: y}, Room: float64(room[i]) / 3 * mm, Node: node},
			)
		}
	}
}

// deepest returns the pixels of a part that lie deepest in it, one after the other, clear of one another.
func deepest(pixels []int, room []int32, width int) (list []int) {
	for range perPart {
		best := -1
		for _, i := range pixels {
			if (best < 0 || room[i] > room[best]) && clearOf(list, i, room, width) {
				best = i
			}
		}
		if best < 0 {
			return list
		}
		list = append(list, best)
	}
	return list
}

func clearOf(list []int, i int, room []int32, width int) bool {
	for _, k := range list {
		dx, dy := i%width-k%width, i/width-k/width
		apart := 2*int(room[k])/3 + 3
		if dx*dx+dy*dy < apart*apart {
			return false
		}
	}
	return true
}

// roomIn is how far each pixel is from one that shows something else, in thirds of a pixel (Borgefors 1986, “Distance
// transformations in digital images”: the 3–4 chamfer distance).
func roomIn(ids []int32, width, height int) []int32 {
	room := make([]int32, len(ids))
	step := func(i, x, y int, sides [4][2]int) {
		for k, d := range sides {
			cost := int32(3 + k&1) // straight ones and diagonal ones in turn
			nx, ny := x+d[0], y+d[1]
			if nx < 0 || ny < 0 || nx >= width || ny >= height || ids[ny*width+nx] != ids[i] {
				room[i] = min(room[i], cost)
			} else {
				room[i] = min(room[i], room[ny*width+nx]+cost)
			}
		}
	}
	for i := range room {
		room[i] = 1 << 20
	}
	for i := range room {
		step(i, i%width, i/width, [4][2]int{{-1, 0}, {-1, -1}, {0, -1}, {1, -1}})
	}
	for i := len(room) - 1; i >= 0; i-- {
		step(i, i%width, i/width, [4][2]int{{1, 0}, {1, 1}, {0, 1}, {-1, 1}})
	}
	return room
}
