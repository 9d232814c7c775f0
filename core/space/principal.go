package space

import "math"

// Principal returns the eigenvalues of a symmetric matrix in ascending order and
// the rotation whose columns are the eigenvectors, right-handed. Jacobi's
// method.
func Principal(m Mat3) ([3]float64, Mat3) {
	v := Identity3
	for range 50 {
		p, q := 0, 1
		for _, pair := range [][2]int{{0, 2}, {1, 2}} {
			if math.Abs(m[3*pair[0]+pair[1]]) > math.Abs(m[3*p+q]) {
				p, q = pair[0], pair[1]
			}
		}
		off := m[3*p+q]
		if math.Abs(off) <= 1e-15*(math.Abs(m[0])+math.Abs(m[4])+math.Abs(m[8])) {
			break
		}
		theta := (m[4*q] - m[4*p]) / (2 * off)
		t := 1 / (math.Abs(theta) + math.Sqrt(theta*theta+1))
		if theta < 0 {
			t = -t
		}
		c := 1 / math.Sqrt(t*t+1)
		j := Identity3
		j[4*p], j[4*q], j[3*p+q], j[3*q+p] = c, c, t*c, -t*c
		back := j.Transposed()
		m = m.Mul(&j)
		m = back.Mul(&m)
		v = v.Mul(&j)
	}
	values := [3]float64{m[0], m[4], m[8]}
	order := [3]int{0, 1, 2}
	for _, pair := range [][2]int{{0, 1}, {1, 2}, {0, 1}} {
		if values[order[pair[0]]] > values[order[pair[1]]] {
			order[pair[0]], order[pair[1]] = order[pair[1]], order[pair[0]]
		}
	}
	var sorted Mat3
	for col, from := range order {
		for row := range 3 {
			sorted[3*row+col] = v[3*row+from]
		}
	}
	if x, y, z := sorted.Column(0), sorted.Column(1), sorted.Column(2); dot(cross(x, y), z) < 0 {
		for row := range 3 {
			sorted[3*row+2] = -sorted[3*row+2]
		}
	}
	return [3]float64{values[order[0]], values[order[1]], values[order[2]]}, sorted
}

// Det returns the determinant: negative where the matrix mirrors.
func (m *Mat3) Det() float64 {
	return m[0]*(m[4]*m[8]-m[5]*m[7]) - m[1]*(m[3]*m[8]-m[5]*m[6]) + m[2]*(m[3]*m[7]-m[4]*m[6])
}

// Column returns column i: the image of an axis.
func (m *Mat3) Column(i int) Vec { return Vec{X: m[i], Y: m[3+i], Z: m[6+i]} }

func dot(a, b Vec) float64 { return a.X*b.X + a.Y*b.Y + a.Z*b.Z }
