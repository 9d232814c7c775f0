package outline

// Area is that of a polygon, negative where it runs clockwise (the shoelace formula).
func Area(p []Point) (sum float64) {
	for i := range p {
		q := p[(i+1)%len(p)]
		sum += (p[i][0]*q[1] - p[i][1]*q[0]) / 2
	}
	return sum
}

// Holds reports whether a point lies in a polygon, whichever way that runs.
func Holds(p []Point, q Point) (in bool) {
	for i := range p {
		a, b := p[i], p[(i+1)%len(p)]
		if (a[1] > q[1]) != (b[1] > q[1]) && q[0] < a[0]+(q[1]-a[1])/(b[1]-a[1])*(b[0]-a[0]) {
			in = !in
		}
	}
	return in
}
