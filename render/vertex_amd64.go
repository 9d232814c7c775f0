//go:build !purego

package render

// moveVectors is movePlain, three numbers at once. It writes into one more vertex than there are.
func moveVectors(out []vertex, positions, normals []float32, m *matrix) {
	if n := len(out); n > 0 {
		_, _, _ = out[:n+1], positions[3*n-1], normals[3*n-1] // all that is reached is there
		columns := [4][4]float32{
			{m.r[0], m.r[3], m.r[6]},
			{m.r[1], m.r[4], m.r[7]},
			{m.r[2], m.r[5], m.r[8]},
			{m.t[0], m.t[1], m.t[2]},
		}
		moveAVX2(&out[0], &positions[0], &normals[0], &columns, n)
	}
}

// screenVectors is screenPlain. It writes into one more point than there are.
func screenVectors(out []onScreen, in []vertex, w *viewport) {
	if n := len(out); n > 0 {
		_, _ = out[:n+1], in[n-1]
		screenAVX2(&out[0], &in[0], &[4]float64{w.cx, w.cy, w.sx, -w.sy}, n)
	}
}

// moveAVX2 brings n vertices into another frame.
//
//go:noescape
func moveAVX2(out *vertex, position, normal *float32, columns *[4][4]float32, n int)

// screenAVX2 projects n vertices onto a viewport: its middle, and what slopes are multiplied by.
//
//go:noescape
func screenAVX2(out *onScreen, in *vertex, window *[4]float64, n int)

// screenNumbers are what screenAVX2 needs: ½, guard and −guard twice, −1 and −near.
var (
	screenNumbers = [7]float64{0.5, 0.5, guard, guard, -guard, -guard, -1}
	screenNear    = float32(-near)
)
