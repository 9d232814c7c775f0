package look

// cellRow and cellMap are cells of a shadow as whole numbers, by row from the back.
type (
	cellRow [ShadowSize]int32
	cellMap [ShadowSize]cellRow
)

const (
	// The shadow is blurred by the mean of blurSide cells along each axis, blurTimes times: three
	// come near a bell curve (the central limit theorem).
	blurSide  = 5
	blurTimes = 3
	blurred   = blurSide * blurSide * blurSide * blurSide * blurSide * blurSide // by what blurred cells are larger
	// darkest is a cell that is wholly dark, before it is blurred: what comes of it has 31 bits.
	darkest = 1 << 16
)

// blur blurs the cells into the map. Sums of whole numbers are exact, so that they may go on from one
// cell to the next, and where there is no shadow there is none after it. The border stays white.
func (s *Shadow) blur() {
	for k := range s.cells {
		if s.cells[k] != (cellRow{}) {
			s.cells[k].blur()
		}
	}
	for range blurTimes {
		s.cells.sumColumns(s.sums)
		s.cells, s.sums = s.sums, s.cells
	}
	for k := range s.cells {
		out := s.Dark[k*ShadowSize:][:ShadowSize]
		for i, c := range s.cells[k] {
			out[i] = float32(c) * (1.0 / (darkest * blurred))
		}
	}
}

// blur sums along a row.
func (c *cellRow) blur() {
	var sums cellRow
	for range blurTimes {
		sum := c[0] + c[1] + c[2] + c[3]
		for i := blurSide / 2; i < ShadowSize-blurSide/2; i++ {
			sum += c[i+blurSide/2]
			sums[i] = sum
			sum -= c[i-blurSide/2]
		}
		*c = sums
	}
}

// sumColumns sums along all columns at once.
func (c *cellMap) sumColumns(out *cellMap) {
	var sum cellRow
	for k := range blurSide - 1 {
		for i := range sum {
			sum[i] += c[k][i]
		}
		out[k], out[ShadowSize-1-k] = cellRow{}, cellRow{}
	}
	for k := blurSide / 2; k < ShadowSize-blurSide/2; k++ {
		in, gone, row := &c[k+blurSide/2], &c[k-blurSide/2], &out[k]
		for i := range sum {
			now := sum[i] + in[i]
			row[i], sum[i] = now, now-gone[i]
		}
	}
}
