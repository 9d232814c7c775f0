package solid

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Alike is how far the figures of two fingerprints may differ for the shapes to
// count as the same, as a share: a screw that is 0.1 % longer is another one.
const Alike = 2e-4

// chiral is the least size of a handed figure that is told from noise.
const chiral = 1e-3

// Fingerprint is made of figures of a surface that no rigid motion changes. The
// handed ones change their sign in a mirror.
type Fingerprint struct {
	area, volume float64
	plain        [6]float64 // lengths, as shares of √area
	handed       [3]float64
}

// Similarity says how two shapes are related.
type Similarity string

// The kinships.
const (
	Same     Similarity = "same"     // one is the other, moved
	Mirrored Similarity = "mirrored" // one is the other's mirror image, and no motion makes them the same
	Other    Similarity = "other"
)

// Fingerprint computes the shape's fingerprint from the moments of its surface
// up to the fourth order in the frame of its principal axes.
func (s *Shape) Fingerprint() Fingerprint {
	area, centre, second := s.surface()
	values, axes := space.Principal(second)
	f := Fingerprint{area: area, volume: math.Abs(s.Volume())}
	l := math.Sqrt(area)
	var skew space.Vec // ∫ r·r²
	var product, fourth float64
	var twist [3]float64
	for t := 0; t < len(s.Triangles); t += 3 {
		a, b, c := s.corners(t, centre)
		a, b, c = axes.ApplyInverse(a), axes.ApplyInverse(b), axes.ApplyInverse(c)
		n := r3.Cross(r3.Sub(b, a), r3.Sub(c, a))
		double := r3.Norm(n)
		mid := r3.Scale(1.0/3, r3.Add(a, r3.Add(b, c)))
		// Exact to the third order: a Gauss rule with four points.
		for i, p := range [4]space.Vec{mid, mean(a, b, c), mean(b, c, a), mean(c, a, b)} {
			w := double / 2 * 25 / 48
			if i == 0 {
				w = -double / 2 * 27 / 48
			}
			r2 := r3.Dot(p, p)
			skew = r3.Add(skew, r3.Scale(w*r2, p))
			product += w * p.X * p.Y * p.Z
			fourth += w * r2 * r2
		}
		around := r3.Cross(n, mid)
		twist[0] += n.X * around.X / (2 * double)
		twist[1] += n.Y * around.Y / (2 * double)
		twist[2] += n.Z * around.Z / (2 * double)
	}
	for i, v := range values {
		f.plain[i] = math.Sqrt(math.Max(v, 0)/area) / l
	}
	skew = r3.Scale(1/(area*l*l*l), skew)
	f.plain[3] = math.Cbrt(r3.Norm(skew))
	f.plain[4] = math.Sqrt(math.Sqrt(math.Max(fourth, 0)/area)) / l
	f.plain[5] = math.Cbrt(f.volume) / l
	// The axes are known up to turns by half a revolution, which leave these
	// as they are; where two moments are equal only the third axis is known.
	low, high := values[1]-values[0], values[2]-values[1]
	if scale := 1e-3 * values[2]; low > scale && high > scale {
		f.handed[0] = product / (area * l * l * l) * 10
		f.handed[1] = math.Cbrt(skew.X * skew.Y * skew.Z)
	}
	unique := 2
	if low > high {
		unique = 0
	}
	f.handed[2] = twist[unique] / (area * l)
	return f
}

// surface returns the area, its centroid, and its second moments about that.
func (s *Shape) surface() (area float64, centre space.Vec, second space.Mat3) {
	from := s.Bounds.Centre()
	var m sums
	for t := 0; t < len(s.Triangles); t += 3 {
		a, b, c := s.corners(t, from)
		double := r3.Norm(r3.Cross(r3.Sub(b, a), r3.Sub(c, a)))
		m.add(double/6, double/24, a, b, c)
		area += double / 2
	}
	centre = r3.Scale(1/area, m.first)
	return area, r3.Add(from, centre), m.about(centre, area)
}

func mean(a, b, c space.Vec) space.Vec {
	return r3.Add(r3.Scale(0.6, a), r3.Scale(0.2, r3.Add(b, c)))
}

// Similarity says how the shapes of two fingerprints are related, within Alike.
func (f *Fingerprint) Similarity(g *Fingerprint) Similarity {
	if !near(f.area, g.area) || !near(math.Cbrt(f.volume), math.Cbrt(g.volume)) {
		return Other
	}
	for i := range f.plain {
		// A vanishing skew is known only to the third root of its noise.
		if tolerance := [6]float64{Alike, Alike, Alike, 0.02, Alike, Alike}[i]; math.Abs(
			f.plain[i]-g.plain[i],
		) > tolerance {
			return Other
		}
	}
	kin := Same
	for i := range f.handed {
		a, b := f.handed[i], g.handed[i]
		switch size := math.Max(math.Abs(a), math.Abs(b)); {
		case size < chiral || math.Abs(a-b) < 0.1*size:
		case math.Abs(a+b) < 0.1*size:
			kin = Mirrored
		default:
			return Other
		}
	}
	return kin
}

func near(a, b float64) bool { return math.Abs(a-b) <= Alike*math.Max(math.Abs(a), math.Abs(b)) }

// Families puts shapes that are the same or mirrored into families. It returns,
// for each shape, the index of the first shape of its family, and whether it is
// that one's mirror image.
func Families(shapes []*Shape) (first []int, mirrored []bool) {
	prints := make([]Fingerprint, len(shapes))
	first, mirrored = make([]int, len(shapes)), make([]bool, len(shapes))
	for i, s := range shapes {
		prints[i] = s.Fingerprint()
		first[i] = i
		for k := range i {
			if first[k] != k {
				continue
			}
			if kin := prints[k].Similarity(&prints[i]); kin != Other {
				first[i], mirrored[i] = k, kin == Mirrored
				break
			}
		}
	}
	return first, mirrored
}
