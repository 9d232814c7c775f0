package render

import "math"

const samples = 4

// offsets are the samples of a pixel in 1/256 pixel: a square turned, the way round that the stage's
// multisampling has it, whose rows run upwards.
var offsets = [samples][2]int32{{32, 96}, {160, 32}, {224, 160}, {96, 224}}

// Samples stand on whole eighths of a pixel. In eighths edge functions are exact, too, and
// numbers smaller.
const (
	stepBits = 5 // of 1/256 pixel to 1/8
	eighths  = subBits - stepBits
	// nearSample and farSample are the least and the greatest of offsets, in eighths.
	nearSample = 1
	farSample  = 7
)

// tile is the work space of one worker: what is nearest at each sample.
type tile struct {
	x0, y0, w, h   int                       // pixels
	solid          layer                     // of all solid parts
	hiZ            [blocks * blocks]float32  // of each block: the farthest of what is nearest
	over           layer                     // of one see-through part
	edges          edges                     // work space
	spanRow        spanRow                   // work space
	row            row                       // work space
	background     backgroundRow             // work space
	contactShadow  contactShadow             // on the background
	quads          []quad                    // work space: between which the pixels of some rows lie
	quadsOf        int64                     // in which picture
	quadsAt        [2]int32                  // and where
	triangleSetups [setupSlots]triangleSetup // triangles that were shaded lately
	picture        int64                     // in which
	moving         []binned                  // work space: what is not in the static tile
	stamp          []int64                   // work space: by part, which are in the static tile
	stamps         int64
	fragments      [maxFragments]fragments // the nearest of every pixel, the next one of every pixel, …
	fragmentCounts [tileSide]uint8         // by row: how many of them are in use
	covered        [tileSide]uint64        // by row: which pixels have fragments
}

// layer says what is nearest at each sample of a tile: its depth (1/z, 0 where
// there is nothing) and the id of its face. The samples of a pixel stand side by
// side, so that a vector of eight holds two pixels.
type layer struct {
	inverseZ [tileSide * rowStride]float32
	id       [tileSide * rowStride]int32
}

// rowStride is by how many samples the rows of a layer are apart: a line of the processor's
// cache more than a row holds. Without it rows below each other share the same few places of
// the first cache, and faces that are tall push themselves out of it.
const rowStride = tileSide*samples + 16

// sampleAt returns where a pixel's first sample stands in a layer.
func sampleAt(x, y int) int { return y*rowStride + x*samples }

// noFace is the face id of a sample without a face.
const noFace = int32(0)

// lanes is how many samples the vector loops look at at once: two pixels. A tile's
// side is even, so that a pair never reaches into the next row.
const lanes = 2 * samples

// A tile is divided into blocks of 8 × 8 pixels, so that a face behind
// everything that is already there is passed over without looking at samples.
const (
	blockSide = 8
	blocks    = tileSide / blockSide
)

// updateHiZ brings the blocks that touch a box of pixels up to date.
func (t *tile) updateHiZ(box [4]int) {
	for by := box[1] / blockSide; by <= box[3]/blockSide; by++ {
		for bx := box[0] / blockSide; bx <= box[2]/blockSide; bx++ {
			t.hiZ[by*blocks+bx] = kernel.leastInverseZ(&t.solid, bx*blockSide, by*blockSide, min((by+1)*blockSide, t.h))
		}
	}
}

// leastInverseZOf returns the least depth in a block, its first corner and the row after its
// last given. Pixels to the right of the picture have no face and would make a block
// empty; they are never drawn, so that it does not matter.
func leastInverseZOf(l *layer, x0, y0, y1 int) float32 {
	// As whole numbers depths have the same order; four chains of them run side by side.
	a := math.Float32bits(l.inverseZ[sampleAt(x0, y0)])
	b, c, d := a, a, a
	for y := y0; y < y1 && a > 0; y++ {
		row := (*[blockSide * samples]float32)(l.inverseZ[sampleAt(x0, y):])
		for i := 0; i < len(row); i += samples {
			a, b = min(a, math.Float32bits(row[i])), min(b, math.Float32bits(row[i+1]))
			c, d = min(c, math.Float32bits(row[i+2])), min(d, math.Float32bits(row[i+3]))
		}
		a = min(a, b, c, d)
	}
	return math.Float32frombits(a)
}

// occluded reports whether a face with the given pixel bounds (in the tile) lies
// behind what is there, wherever it may show. nearest is its largest 1/z.
func (t *tile) occluded(nearest float32, x0, y0, x1, y1 int) bool {
	for by := y0 / blockSide; by <= y1/blockSide; by++ {
		for bx := x0 / blockSide; bx <= x1/blockSide; bx++ {
			if nearest >= t.hiZ[by*blocks+bx] {
				return false
			}
		}
	}
	return true
}

func (t *tile) clear() {
	clear(t.solid.inverseZ[:])
	clear(t.solid.id[:])
	clear(t.hiZ[:])
}

// rasterise draws a face into a layer. A sample goes to the nearer face, and to the
// higher id where both are equally near. Coverage follows the top-left rule on whole
// 1/256 pixels, so that faces which share an edge leave no gap and no overlap.
func (t *tile) rasterise(f *face, into *layer) {
	px0, py0 := max(int32(f.left)-int32(t.x0), 0), max(int32(f.top)-int32(t.y0), 0)
	px1, py1 := min(int32(f.right)-int32(t.x0), int32(t.w-1)), min(int32(f.bottom)-int32(t.y0), int32(t.h-1))
	if px0 > px1 || py0 > py1 {
		return
	}
	e := &t.edges
	e.id = f.id
	if e.least, e.nearest = f.reach(); t.occluded(e.nearest, int(px0), int(py0), int(px1), int(py1)) {
		return
	}
	px0 &^= 1 // pairs
	if !f.narrow {
		t.rasteriseWide(f, into, px0, py0, px1, py1)
		return
	}
	e.setUp(f, t, px0, py0, px1, py1)
	kernel.edges(into, e)
}

// inOrder is a depth as a whole number of the same order, as which it is compared faster: depths
// are not negative.
func inOrder(z float32) int32 { return int32(math.Float32bits(z)) }

// held holds a depth between two others and returns it in order.
func held(z float32, least, most int32) int32 { return min(max(inOrder(z), least), most) }

// put gives a sample to a face where that is nearer than what is there, or equally
// near with a higher id.
func put(d *float32, o *int32, z, id int32) {
	if was := inOrder(*d); z > was || z == was && id > *o {
		*d, *o = math.Float32frombits(uint32(z)), id
	}
}
