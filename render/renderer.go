package render

import (
	"cmp"
	"fmt"
	"runtime"
	"slices"
	"sync/atomic"

	"github.com/sourcegraph/conc"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/space"
)

// MaxSide is the largest width or height of a picture in pixels.
const MaxSide = 8192

// Renderer draws views of one scene at one size. It keeps its work space
// between frames; one goroutine at a time may call Draw.
type Renderer struct {
	scene         *Scene
	width, height int
	across, down  int     // tiles
	edgeWidth     float64 // of lines, pixels
	contourWidth  float64
	threads       int
	seen          []projected
	order         []int32    // the visible parts, near ones first
	bins          [][]binned // by tile, in that order
	tiles         []*tile    // one for each thread
	memory        memory
	occlusion     occlusion
	// rayAcross and rayDown are how much a ray turns from pixel to pixel.
	rayAcross, rayDown float32
	flatStep           int // see points.addRun
	ink                [3]float32
	inkRow             colours
	backgroundRows     [][3]float32   // by row of the picture: the background without shadow
	backdrop           *[2]space.Vec3 // other colours of the background, at the top and at the foot
	behind             []byte         // picture in place of the background, 4 bytes a pixel; nil for none
	depth              []float32      // of the picture, 1/z, when it is wanted
	colourless         bool           // depths and owners are all that is wanted
	ids                []int32        // and whose it is: nodes, −1 for none
	watched            []bool         // by tile: where alone they are wanted; nil for everywhere
	bits16             []uint16       // the picture with 16 bits a colour, when it is wanted
	rounding           *rounding      // of display values to bytes
	onDark             bool
	shade              pixelRect // pixels of the picture outside of which the background has no shadow
}

// binned is the run of a part's faces in one tile.
type binned struct {
	part  int32
	faces []tileRun
}

// NewRenderer returns a renderer for pictures of the given size in pixels.
// threads ≤ 0 means one for each processor.
func NewRenderer(s *Scene, width, height, threads int) (*Renderer, error) {
	if width < 1 || height < 1 || width > MaxSide || height > MaxSide {
		return nil, fmt.Errorf("a picture of %d × %d pixels is not between 1 and %d a side", width, height, MaxSide)
	}
	if threads <= 0 {
		threads = runtime.GOMAXPROCS(0)
	}
	r := &Renderer{scene: s, width: width, height: height, threads: threads,
		across: tilesOf(width), down: tilesOf(height),
		seen:     make([]projected, len(s.parts)+1), // the last one is for flow lines
		rounding: byNoise()}
	r.edgeWidth, r.contourWidth = look.Default.Widths(float64(height), 1)
	r.bins = make([][]binned, r.across*r.down)
	r.memory = newMemory(len(r.bins), len(s.parts))
	r.occlusion = s.newOcclusion(width, height)
	for range threads {
		r.tiles = append(r.tiles, new(tile))
	}
	return r, nil
}

// SetBackdrop gives the background behind everything other colours, display values at the top
// and at the foot; before the first picture.
func (r *Renderer) SetBackdrop(top, foot space.Vec3) { r.backdrop = &[2]space.Vec3{top, foot} }

// DrawOnDark draws with light ink, and lets the shadow go to black: for dark backgrounds; before the first picture.
func (r *Renderer) DrawOnDark() { r.onDark = true }

// ForHalves draws lines as wide as they are in a picture of half the size, which Halve makes; before the first picture.
func (r *Renderer) ForHalves() {
	edge, contour := look.Default.Widths(float64(r.height)/2, 1)
	r.edgeWidth, r.contourWidth = 2*edge, 2*contour
}

// RoundToNearest makes bytes the nearest ones to what was drawn; before the first picture. Without it they are rounded
// by look.Noise: what is looked at has no bands then.
func (r *Renderer) RoundToNearest() { r.rounding = toNearest() }

// KeepDepth makes Depth say how deep pictures are; before the first one.
func (r *Renderer) KeepDepth() {
	r.depth, r.ids = make([]float32, r.width*r.height), make([]int32, r.width*r.height)
}

// withoutColours has Draw find depths and owners alone; before the first picture, whose colours are then nothing.
func (r *Renderer) withoutColours() {
	r.KeepDepth()
	r.colourless = true
}

// Depth returns, for each pixel of the last picture, 1/distance of the nearest solid
// surface in front of the eye, in 1/mm, 0 where there is none. Distance is measured along
// the line of sight of the picture's middle.
func (r *Renderer) Depth() []float32 { return r.depth }

// Watch says about which notes MarkHidden will be asked after the next picture.
func (r *Renderer) Watch(notes []film.Note) {
	if r.depth == nil {
		r.KeepDepth()
		r.watched = make([]bool, len(r.bins))
	}
	clear(r.watched)
	for i := range notes {
		x, y := int(notes[i].AnchorX*float64(r.width)), int(notes[i].AnchorY*float64(r.height))
		for dy := -noteReach; dy <= noteReach; dy++ {
			for dx := -noteReach; dx <= noteReach; dx++ {
				if px, py := x+dx, y+dy; px >= 0 && py >= 0 && px < r.width && py < r.height {
					r.watched[py/tileSide*r.across+px/tileSide] = true
				}
			}
		}
	}
}

func (r *Renderer) isWatched(tile int) bool { return r.watched != nil && r.watched[tile] }

func (r *Renderer) noteDepth(t *tile, empty bool) {
	if r.depth == nil || r.watched != nil && !r.watched[t.y0/tileSide*r.across+t.x0/tileSide] {
		return
	}
	for y := range t.h {
		from := (t.y0+y)*r.width + t.x0
		out, owners := r.depth[from:][:t.w], r.ids[from:][:t.w]
		for x := range out {
			out[x], owners[x] = 0, -1
			if empty {
				continue
			}
			at, nearest := sampleAt(x, y), -1
			for s := at; s < at+samples; s++ {
				if d := t.solid.inverseZ[s]; d > out[x] {
					out[x], nearest = d, s
				}
			}
			if nearest >= 0 {
				owners[x] = r.nodeOf(t.solid.id[nearest])
			}
		}
	}
}

// nodeOf is the node of the part that owns a sample, −1 for none.
func (r *Renderer) nodeOf(id int32) int32 {
	part := int32(-1)
	switch edge := -1 - id; {
	case id > noFace:
		part = r.scene.partOf[id]
	case id < noFace && int(edge) < len(r.scene.partOfEdge):
		part = r.scene.partOfEdge[edge]
	}
	if part < 0 {
		return -1
	}
	return int32(r.scene.parts[part].node)
}

// Draw draws the view into the picture, which must have the renderer's size. The
// bytes do not depend on what was drawn before; the time does.
func (r *Renderer) Draw(v *View, out *Picture) {
	out.open(r)
	r.compare(v)
	r.each(len(r.scene.parts), func(_, k int) {
		if r.memory.changed[k] {
			r.project(k, v)
		}
	})
	if r.memory.changed[len(r.scene.parts)] {
		r.projectFlow(v)
	}
	r.invalidateChanged() // where they are now
	r.sortIntoTiles()
	r.occlude(v)
	r.prepareStaticTiles()
	r.findShade(v)
	r.rayAcross, r.rayDown = float32(2*v.Camera.tanH/float64(r.width)), float32(2*v.Camera.tanV/float64(r.height))
	r.flatStep = flatStep(r.rayAcross)
	l := newLights(&look.Default, v)
	if r.onDark {
		l.ink, l.dark = narrow(look.Default.InkOnDark), [3]float32{}
	}
	r.ink = l.ink
	kernel.fill(&r.inkRow, &r.ink)
	if r.backdrop != nil {
		l.backgroundTop, l.backgroundBottom = narrow(r.backdrop[0]), narrow(r.backdrop[1])
	}
	for y := len(r.backgroundRows); y < r.height; y++ { // once
		r.backgroundRows = append(r.backgroundRows, l.background(y, r.height))
	}
	r.each(len(r.bins), func(worker, i int) {
		changed := out.prepare(i, r.memory.before)
		if (r.memory.dirty[i] || r.isWatched(i)) && r.drawTileAt(r.tiles[worker], i, v, &l) || changed {
			out.note(i) // while it is at hand
		}
	})
	r.remember(v)
}

// drawTileAt draws tile i, unless it is background as it was; it tells whether it did.
func (r *Renderer) drawTileAt(t *tile, i int, v *View, l *lights) bool {
	t.x0, t.y0 = i%r.across*tileSide, i/r.across*tileSide
	t.w, t.h = min(tileSide, r.width-t.x0), min(tileSide, r.height-t.y0)
	plain := len(r.bins[i]) == 0 && !r.shade.meets(t)
	if plain && r.memory.plain[i] {
		r.noteDepth(t, true)
		return false
	}
	r.memory.plain[i] = plain
	r.drawTile(t, r.bins[i], v, l, r.memory.staticTile(i), r.memory.invalidated[i], r.memory.relit[i])
	return true
}

// flatStep returns at how many pixels' distance flat facets are shaded, given how much a ray
// turns from one to the next: over 1/150 rad the narrowest highlight is straight within
// 1/500 of its height.
func flatStep(turn float32) int {
	for step := 8; step > 1; step /= 2 {
		if turn*float32(step) < 1.0/150 {
			return step
		}
	}
	return 1
}

// each calls do for 0 … n−1, spread over the threads.
func (r *Renderer) each(n int, do func(worker, i int)) { spreadOver(r.threads, n, do) }

func spreadOver(threads, n int, do func(worker, i int)) {
	if threads == 1 {
		for i := range n {
			do(0, i)
		}
		return
	}
	var next atomic.Int64
	var all conc.WaitGroup // whose panics come back to who waits
	for w := range threads {
		all.Go(func() {
			for {
				i := int(next.Add(1)) - 1
				if i >= n {
					return
				}
				do(w, i)
			}
		})
	}
	all.Wait()
}

func (r *Renderer) sortIntoTiles() {
	for i := range r.bins {
		r.bins[i] = r.bins[i][:0]
	}
	r.order = r.order[:0]
	for k := range r.seen {
		if r.seen[k].visible {
			r.order = append(r.order, int32(k))
		}
	}
	// Near parts first: what they hide fails the depth test early.
	slices.SortStableFunc(r.order, func(a, b int32) int { return cmp.Compare(r.seen[a].depth, r.seen[b].depth) })
	for _, k := range r.order {
		s := &r.seen[k]
		for i := 0; i < len(s.tiles); {
			j := i
			for j < len(s.tiles) && s.tiles[j].tile == s.tiles[i].tile {
				j++
			}
			at := s.tiles[i].tile
			r.bins[at] = append(r.bins[at], binned{k, s.tiles[i:j]})
			i = j
		}
	}
}

// drawTile draws what is in the bins into the tile's pixels, on its static tile where
// there is one.
func (r *Renderer) drawTile(t *tile, bins []binned, v *View, l *lights, g *staticTile, soiled pixelRect, relit bool) {
	solid := bins
	t.forget(r.memory.picture)
	t.contactShadow.clear()
	t.background.made = false
	clear(t.covered[:])
	switch {
	case g != nil:
		solid = r.restoreStaticTile(t, g, bins, soiled, relit)
	case len(bins) == 0:
		if !r.colourless {
			r.drawBackground(t, v, l)
		}
		r.noteDepth(t, true)
		return
	default:
		t.clear()
	}
	t.row.points.aim(r.rayAt(v, t.x0), r.rayAcross)
	for _, b := range solid {
		if r.seen[b.part].solid {
			r.drawSolid(t, b)
		}
	}
	if r.colourless {
		r.noteDepth(t, false)
		return
	}
	cleared := false
	for _, b := range bins {
		if !r.seen[b.part].solid {
			if !cleared {
				clear(t.fragmentCounts[:])
				cleared = true
			}
			r.drawTransparent(t, b, v, l)
		}
	}
	r.resolve(t, v, l, g)
	r.noteDepth(t, false)
}

func (r *Renderer) drawSolid(t *tile, b binned) {
	s := &r.seen[b.part]
	box, some := r.boxIn(t, b)
	if !some {
		return
	}
	outer := b.faces
	for len(outer) > 0 && outer[len(outer)-1].index >= s.inner {
		outer = outer[:len(outer)-1]
	}
	for _, run := range outer {
		t.rasterise(&s.faces[run.index], &t.solid)
	}
	if len(outer) > 0 {
		t.updateHiZ(box) // most of what follows lies behind that
	}
	for _, run := range b.faces[len(outer):] {
		t.rasterise(&s.faces[run.index], &t.solid)
	}
	if len(outer) == 0 {
		t.updateHiZ(box)
	}
}

// drawTransparent draws one see-through part: its nearest surface in front of all
// that is solid. Where its faces are on their way to nothing, the edges behind them
// come up as fragments of their own.
func (r *Renderer) drawTransparent(t *tile, b binned, v *View, l *lights) {
	s := &r.seen[b.part]
	box, some := r.boxIn(t, b)
	if !some {
		return
	}
	r.drawLayer(t, b, box, 0)
	r.addFragments(t, b.part, v, l, box, s.opacity)
	if s.through > 0 {
		r.drawLayer(t, b, box, s.strips)
		r.addFragments(t, b.part, v, l, box, s.through)
	}
}

// drawLayer finds what is nearest of a part's faces from one on, in front of all
// that is solid.
func (r *Renderer) drawLayer(t *tile, b binned, box [4]int, first int32) {
	s := &r.seen[b.part]
	for y := box[1]; y <= box[3]; y++ {
		from, to := sampleAt(box[0], y), sampleAt(box[2]+1, y)
		copy(t.over.inverseZ[from:to], t.solid.inverseZ[from:to])
		clear(t.over.id[from:to])
	}
	for _, run := range b.faces {
		if run.index >= first {
			t.rasterise(&s.faces[run.index], &t.over)
		}
	}
}

// boxIn returns the pixels of the tile that a part's faces may touch: first
// column and row, last column and row.
func (r *Renderer) boxIn(t *tile, b binned) (box [4]int, some bool) {
	s := &r.seen[b.part].box
	box = [4]int{
		max(int(s.left)-t.x0, 0),
		max(int(s.top)-t.y0, 0),
		min(int(s.right)-t.x0, t.w-1),
		min(int(s.bottom)-t.y0, t.h-1),
	}
	return box, box[0] <= box[2] && box[1] <= box[3]
}
