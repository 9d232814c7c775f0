package render

import "math"

// face is a triangle or a quadrangle of a part's surface on the screen, or the strip of an
// edge.
//
// A quadrangle is a triangle with a fourth corner beyond its side from 1 to 2; a triangle has
// its corner 2 twice.
type face struct {
	x, y [4]int32 // 1/256 pixel
	// w is 1/z of the corners. A strip's reaches past the ends of its edge: at the corners 0
	// and 2 it is w[0], at the others w[1], and nowhere is it outside of w[2] … w[3], which the
	// ends have.
	w [4]float32
	// Which columns and rows of the picture's pixels it may touch; see bound.
	left, top, right, bottom int16
	edge, narrow             bool // whether it is a strip, and whether edges.setUp takes it
	// id is the triangle's number in the scene, from 1, or −1−number for an edge.
	id int32
}

// side4 tells of a quadrangle from which side it is seen: negative from the front, since rows
// run downwards; 0 where it has a dent on the screen or no width, for which it takes little
// when it is nearly seen from aside.
func (f *face) side4() int {
	x01, y01, x13, y13 := int64(f.x[1]-f.x[0]), int64(f.y[1]-f.y[0]), int64(f.x[3]-f.x[1]), int64(f.y[3]-f.y[1])
	x32, y32, x20, y20 := int64(f.x[2]-f.x[3]), int64(f.y[2]-f.y[3]), int64(f.x[0]-f.x[2]), int64(f.y[0]-f.y[2])
	a, b, c, d := x01*y13-x13*y01, x13*y32-x32*y13, x32*y20-x20*y32, x20*y01-x01*y20
	switch {
	case a < 0 && b < 0 && c < 0 && d < 0:
		return -1
	case a > 0 && b > 0 && c > 0 && d > 0:
		return 1
	}
	return 0
}

// turn lets a face run the other way round: the raster loop wants one order.
func (f *face) turn() {
	f.x[1], f.x[2] = f.x[2], f.x[1]
	f.y[1], f.y[2] = f.y[2], f.y[1]
	f.w[1], f.w[2] = f.w[2], f.w[1]
}

// bound finds the first and the last column and row of pixels that a face may touch; false
// where it touches none of the picture.
func (f *face) bound(width, height int) bool {
	x0, y0 := min(f.x[0], f.x[1], f.x[2], f.x[3]), min(f.y[0], f.y[1], f.y[2], f.y[3])
	x1, y1 := max(f.x[0], f.x[1], f.x[2], f.x[3]), max(f.y[0], f.y[1], f.y[2], f.y[3])
	w, h := x1-x0, y1-y0
	x0, y0, x1, y1 = x0>>subBits, y0>>subBits, x1>>subBits, y1>>subBits
	if x1 < 0 || y1 < 0 || int(x0) >= width || int(y0) >= height {
		return false
	}
	f.narrow = w <= narrowSide<<subBits && h <= narrowSide<<subBits
	f.left = int16(max(x0, 0))
	f.top = int16(max(y0, 0))
	f.right = int16(min(x1, int32(width-1)))
	f.bottom = int16(min(y1, int32(height-1)))
	return true
}

// reach returns the least and the largest 1/z of a face.
func (f *face) reach() (least, most float32) {
	// As whole numbers positive ones have the same order, and processors guess no branch.
	a, b, c, d := math.Float32bits(f.w[0]), math.Float32bits(f.w[1]), math.Float32bits(f.w[2]), math.Float32bits(f.w[3])
	if f.edge {
		a, b = c, d
	}
	return math.Float32frombits(min(a, b, c, d)), math.Float32frombits(max(a, b, c, d))
}

// plane returns 1/z at the corners 0, 1 and 2, from which it is told everywhere.
func (f *face) plane() (w0, w1, w2 float32) {
	if f.edge {
		return f.w[0], f.w[1], f.w[0]
	}
	return f.w[0], f.w[1], f.w[2]
}

// pixelBox is a rectangle of pixels, both ends included; one that ends before it begins is
// empty.
type pixelBox struct{ left, top, right, bottom int16 }

func (b pixelBox) with(f *face) pixelBox {
	return pixelBox{min(b.left, f.left), min(b.top, f.top), max(b.right, f.right), max(b.bottom, f.bottom)}
}

var noPixels = pixelBox{MaxSide, MaxSide, -1, -1}
