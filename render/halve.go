package render

// Halve makes p the mean of every four pixels of a picture of twice its size, which was rounded to the nearest; noisy
// rounds it by the look's noise. So a pixel has sixteen samples.
func (r *Renderer) Halve(big, p *Picture, noisy bool) {
	more := toNearest()
	if noisy {
		more = byNoise()
	}
	p.Replace(func(rgb []byte) {
		spreadOver(r.threads, p.Height, func(_, y int) {
			a, b := big.RGB[3*2*y*big.Width:][:3*big.Width], big.RGB[3*(2*y+1)*big.Width:][:3*big.Width]
			row, round := rgb[3*y*p.Width:][:3*p.Width], &more[y%tileSide]
			for x := range p.Width {
				for c := range 3 {
					i := 6*x + c
					sum := int(a[i]) + int(a[i+3]) + int(b[i]) + int(b[i+3])
					row[3*x+c] = byte(float32(sum)*0.25 + round[x%tileSide])
				}
			}
		})
	})
}
