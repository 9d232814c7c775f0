package linedrawing

import "math"

// Regions traces where a raster of a width has which label: for each label from 0 on, closed lines, in pixels with x to
// the right and y down, that have it on one side all around, outer ones and those of holes in opposite senses. They go
// along the pixels' sides, smoothed, and stray from that by at most within (D. Douglas, T. Peucker, 1973, from memory).
// Pixels with a label below 0 belong to nothing.
func Regions(labels []int32, width int, within float64) map[int32][][]Point {
	height := len(labels) / width
	at := func(x, y int) int32 {
		if x < 0 || y < 0 || x >= width || y >= height {
			return -1
		}
		return labels[y*width+x]
	}
	// By label: from each corner of a pixel, to where its sides lead.
	sides := map[int32]map[[2]int][][2]int{}
	side := func(label int32, x0, y0, x1, y1 int) {
		if sides[label] == nil {
			sides[label] = map[[2]int][][2]int{}
		}
		from := [2]int{x0, y0}
		sides[label][from] = append(sides[label][from], [2]int{x1, y1})
	}
	for y := range height {
		for x := range width {
			l := at(x, y)
			if l < 0 {
				continue
			}
			if at(x, y-1) != l {
				side(l, x, y, x+1, y)
			}
			if at(x+1, y) != l {
				side(l, x+1, y, x+1, y+1)
			}
			if at(x, y+1) != l {
				side(l, x+1, y+1, x, y+1)
			}
			if at(x-1, y) != l {
				side(l, x, y+1, x, y)
			}
		}
	}
	found := map[int32][][]Point{}
	for y := range height { // in the order of the raster, so that the same comes out each time
		for x := range width {
			l := at(x, y)
			if l < 0 {
				continue
			}
			for from := [2]int{x, y}; len(sides[l][from]) > 0; {
				found[l] = append(found[l], simplified(smoothed(around(sides[l], from)), within))
			}
		}
	}
	return found
}

// around takes the sides of one line away and returns their middles, the first one at the end again.
func around(sides map[[2]int][][2]int, from [2]int) (line []Point) {
	here, last := from, [2]int{}
	for {
		next := sides[here]
		k := 0
		// Where two lines meet in a corner each turns back to where it came from: what touches in a corner alone is apart.
		if len(next) > 1 && len(line) > 0 && turnsRight(last, here, next[1]) {
			k = 1
		}
		to := next[k]
		if len(next) == 1 {
			delete(sides, here)
		} else {
			sides[here] = [][2]int{next[1-k]}
		}
		line = append(line, Point{X: float64(here[0]+to[0]) / 2, Y: float64(here[1]+to[1]) / 2})
		last, here = here, to
		if here == from {
			return append(line, line[0])
		}
	}
}

func turnsRight(a, b, c [2]int) bool { return (b[0]-a[0])*(c[1]-b[1])-(b[1]-a[1])*(c[0]-b[0]) > 0 }

// smoothed takes the steps of pixels out of a closed line: each point becomes the mean of those about it. Corners are
// rounded by about a pixel.
func smoothed(line []Point) []Point {
	const about = 4
	n := len(line) - 1
	if n < 4*about {
		return line
	}
	out := make([]Point, n, n+1)
	for i := range out {
		for k := -about; k <= about; k++ {
			p := line[(i+k+n)%n]
			out[i].X, out[i].Y = out[i].X+p.X/(2*about+1), out[i].Y+p.Y/(2*about+1)
		}
	}
	return append(out, out[0])
}

// simplified leaves out the points of a closed line that lie within a distance of the line without them.
func simplified(line []Point, within float64) []Point {
	far, half := 0.0, 0
	for i := range line {
		if d := math.Hypot(line[i].X-line[0].X, line[i].Y-line[0].Y); d > far {
			far, half = d, i
		}
	}
	out := shortened(line[:half+1], within, nil)
	out = shortened(line[half:], within, out)
	return append(out, line[0])
}

// shortened adds what is needed of an open line, but for its last point.
func shortened(line []Point, within float64, out []Point) []Point {
	a, b := line[0], line[len(line)-1]
	length := math.Hypot(b.X-a.X, b.Y-a.Y)
	worst, at := within, 0
	for i := 1; i < len(line)-1; i++ {
		p := line[i]
		d := math.Hypot(p.X-a.X, p.Y-a.Y)
		if length > 0 {
			d = math.Abs((b.X-a.X)*(p.Y-a.Y)-(b.Y-a.Y)*(p.X-a.X)) / length
		}
		if d > worst {
			worst, at = d, i
		}
	}
	if at == 0 {
		return append(out, a)
	}
	return shortened(line[at:], within, shortened(line[:at+1], within, out))
}
