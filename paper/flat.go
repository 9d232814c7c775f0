package paper

import (
	"image"
	"image/color"
	"math"
	"slices"

	"slowreveal/core/linedrawing"
	"slowreveal/render"
)

const (
	// tones is in how many tones a part is filled.
	tones = 4
	// flatDots is how many pixels to the millimetre outlines of tones are traced in.
	flatDots = 8.0
	// flatSide is how many pixels the longer side of that picture has at most.
	flatSide = 3000
	// flatWithin is how far an outline may stray from the sides of pixels, in these.
	flatWithin = 0.4
	// smallestTone is how large a piece of a tone has to be, mm² of paper; what is smaller has that of what is around it.
	smallestTone = 0.25
)

// flat fills parts with areas of few tones, as an illustrator would: each part as a whole first, then what of it is
// lighter or darker. What is seen through is not filled.
func (p *Page) flat(v *View, place Place) error {
	scene, err := v.subject.Scene()
	if err != nil {
		return err
	}
	w := windowOf(v.Camera, v.Min, v.Max)
	x0, y0 := place(linedrawing.Point{X: w.min.X, Y: w.max.Y})
	x1, y1 := place(linedrawing.Point{X: w.max.X, Y: w.min.Y})
	dots := min(flatDots, flatSide/max(math.Abs(x1-x0), math.Abs(y1-y0)))
	eyes, err := render.NewEyesOf(scene, w.aspect(), max(16, int(math.Abs(y1-y0)*dots)), 0)
	if err != nil {
		return err
	}
	width, height := eyes.Size()
	picture, err := v.rendered(scene, &w, width, height)
	if err != nil {
		return err
	}
	fr := *v.frame
	fr.Camera, fr.Flow = w.camera, nil
	solid := make([]bool, len(fr.Opacity))
	for _, part := range v.subject.Parts(v.frame) {
		solid[part.Node] = !part.Clear
	}
	owners := v.inside(eyes.Nodes(&fr, solid, true), &w, width)
	onPage := func(q linedrawing.Point) (x, y float64) {
		return x0 + (x1-x0)*q.X/float64(width), y0 + (y1-y0)*q.Y/float64(height)
	}
	whole := linedrawing.Regions(owners, width, flatWithin)
	toned := tonesOf(picture, owners, width, max(1, int(smallestTone*dots*dots)))
	areas := linedrawing.Regions(toned.labels, width, flatWithin)
	for _, node := range toned.nodes {
		main := toned.most[node]
		p.Fill(outlineOf(whole[node], onPage), toned.colours[main])
		for k := node * tones; k < node*tones+tones; k++ {
			if k != main && len(areas[k]) > 0 {
				p.Fill(outlineOf(areas[k], onPage), toned.colours[k])
			}
		}
	}
	return nil
}

// inside are the owners of the pixels that lie within the bounds of the lines.
func (v *View) inside(owners []int32, w *window, width int) []int32 {
	height := len(owners) / width
	kx, ky := float64(width)/(w.max.X-w.min.X), float64(height)/(w.max.Y-w.min.Y)
	cut := image.Rect(
		int(math.Round((v.Min.X-w.min.X)*kx)), int(math.Round((w.max.Y-v.Max.Y)*ky)),
		int(math.Round((v.Max.X-w.min.X)*kx)), int(math.Round((w.max.Y-v.Min.Y)*ky)),
	)
	out := slices.Clone(owners)
	for i := range out {
		if !(image.Point{X: i % width, Y: i / width}).In(cut) {
			out[i] = -1
		}
	}
	return out
}

func outlineOf(lines [][]linedrawing.Point, place Place) *Outline {
	var o Outline
	for _, line := range lines {
		for i, q := range line[:len(line)-1] {
			if x, y := place(q); i == 0 {
				o.Move(x, y)
			} else {
				o.Line(x, y)
			}
		}
		o.Close()
	}
	return &o
}

// toned are the tones of a picture: the label of a pixel is its node's number times tones, and which of its tones.
type toned struct {
	labels  []int32
	inner   []bool          // whose neighbours are the same node's
	nodes   []int32         // those that are seen
	most    map[int32]int32 // the label of the tone of which there is most, by node
	colours map[int32]color.RGBA
}

// tonesOf divides each part's colours by how bright they are.
func tonesOf(picture *render.Picture, owners []int32, width, least int) *toned {
	t := &toned{labels: make([]int32, len(owners)), most: map[int32]int32{}, colours: map[int32]color.RGBA{}}
	bright := func(i int) float64 { // Rec. 709
		r, g, b := picture.RGB[3*i], picture.RGB[3*i+1], picture.RGB[3*i+2]
		return 0.2126*float64(r) + 0.7152*float64(g) + 0.0722*float64(b)
	}
	// What lies at the border of a part is mixed with what is behind it.
	t.inner = make([]bool, len(owners))
	low, high := map[int32]float64{}, map[int32]float64{}
	for i, node := range owners {
		if node < 0 {
			continue
		}
		if _, known := t.most[node]; !known {
			t.nodes, t.most[node] = append(t.nodes, node), node*tones
		}
		t.inner[i] = i >= width && i < len(owners)-width && i%width > 0 && i%width < width-1 && owners[i-1] == node &&
			owners[i+1] == node && owners[i-width] == node && owners[i+width] == node
		if !t.inner[i] {
			continue
		}
		b := bright(i)
		if _, known := low[node]; !known {
			low[node], high[node] = b, b
		}
		low[node], high[node] = min(low[node], b), max(high[node], b)
	}
	for i, node := range owners {
		t.labels[i] = -1
		if node < 0 {
			continue
		}
		tone := 0
		if span := high[node] - low[node]; span > flattest {
			tone = max(0, min(tones-1, int(tones*(bright(i)-low[node])/span)))
		}
		t.labels[i] = node*tones + int32(tone)
	}
	t.smooth(owners, width, least)
	t.mix(picture)
	return t
}

// flattest is by how much, of 255, the brightness of a part has to differ for it to have more than one tone.
const flattest = 14

// smooth gives pieces of a tone that are too small the tone of what is beside them.
func (t *toned) smooth(owners []int32, width, least int) {
	done := make([]bool, len(t.labels))
	var piece []int
	for first, label := range t.labels {
		if label < 0 || done[first] {
			continue
		}
		piece = append(piece[:0], first)
		done[first] = true
		beside := map[int32]int{}
		for k := 0; k < len(piece); k++ {
			i := piece[k]
			for side, j := range [4]int{i - 1, i + 1, i - width, i + width} {
				if j < 0 || j >= len(t.labels) || side == 0 && i%width == 0 || side == 1 && j%width == 0 ||
					owners[j] != owners[i] {
					continue
				}
				if t.labels[j] != label {
					beside[t.labels[j]]++
				} else if !done[j] {
					done[j] = true
					piece = append(piece, j)
				}
			}
		}
		if len(piece) >= least || len(beside) == 0 {
			continue
		}
		best, n := label, 0
		for l, k := range beside {
			if k > n || k == n && l < best {
				best, n = l, k
			}
		}
		for _, i := range piece {
			t.labels[i] = best
		}
	}
}

// mix finds the mean colour of each tone, and of which there is most.
func (t *toned) mix(picture *render.Picture) {
	const counts = 64 // times as much as at the border
	sums := map[int32]*[4]int{}
	for i, l := range t.labels {
		if l < 0 {
			continue
		}
		s := sums[l]
		if s == nil {
			s = &[4]int{}
			sums[l] = s
		}
		weight := 1
		if t.inner[i] {
			weight = counts
		}
		for k := range 3 {
			s[k] += weight * int(picture.RGB[3*i+k])
		}
		s[3] += weight
	}
	for _, node := range t.nodes {
		most := 0
		for l := node * tones; l < node*tones+tones; l++ {
			s := sums[l]
			if s == nil {
				continue
			}
			t.colours[l] = color.RGBA{byte(s[0] / s[3]), byte(s[1] / s[3]), byte(s[2] / s[3]), 255}
			if s[3] > most {
				most, t.most[node] = s[3], l
			}
		}
	}
}
