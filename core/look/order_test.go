package look

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// enters returns how far along a ray it meets a box, and whether it does: the slabs of Kay and Kajiya
// 1986, from memory.
func enters(b *Box, from, way space.Vec) (float64, bool) {
	inverse := b.World.Inverse()
	p, d := inverse.Apply(from), inverse.R.Apply(way)
	first, last := math.Inf(-1), math.Inf(1)
	for _, s := range [3][4]float64{{p.X, d.X, b.Own.Min.X, b.Own.Max.X}, {p.Y, d.Y, b.Own.Min.Y, b.Own.Max.Y}, {p.Z, d.Z, b.Own.Min.Z, b.Own.Max.Z}} {
		u, v := (s[2]-s[0])/s[1], (s[3]-s[0])/s[1]
		first, last = math.Max(first, math.Min(u, v)), math.Min(last, math.Max(u, v))
	}
	return first, first <= last && last > 0
}

func direction(r *rand.Rand) space.Vec {
	v, _ := space.Normalize(space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
	return v
}

// shelf is boxes of all proportions that stand any way round, none in another's place.
func shelf(r *rand.Rand, n int) (boxes []Box) {
	for i := range n {
		half := space.Vec{X: 2 + 16*r.Float64(), Y: 2 + 16*r.Float64(), Z: 0.2 + 4*r.Float64()}
		room := 50.0 // more than the diagonals of two
		at := space.Vec{X: room * float64(i%3), Y: room * float64(i/3%3), Z: room * float64(i/9)}
		boxes = append(
			boxes,
			Box{
				space.Box{Min: r3.Scale(-1, half), Max: half},
				space.Rigid{R: space.AxisAngle(direction(r), 360*r.Float64()), T: at},
			},
		)
	}
	return boxes
}

// Along every ray boxes are met in the order told.
func TestBoxesAreToldInTheOrderInWhichRaysMeetThem(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 8))
	pairs := 0
	for scene := range 60 {
		boxes := shelf(r, 27)
		middle := space.Vec{X: 50, Y: 50, Z: 50}
		eye := Eye{Ahead: direction(r), Orthographic: scene%2 == 1}
		eye.At = r3.Sub(middle, r3.Scale(160, eye.Ahead))
		place := make([]int, len(boxes))
		order := BackToFront(boxes, eye)
		require.Len(t, order, len(boxes))
		for k, i := range order {
			place[i] = k
		}
		for range 2000 {
			aim := space.Vec{X: 130*r.Float64() - 15, Y: 130*r.Float64() - 15, Z: 130*r.Float64() - 15}
			from, way := eye.At, eye.Ahead
			if eye.Orthographic {
				from = r3.Sub(aim, r3.Scale(400, way))
			} else {
				way, _ = space.Normalize(r3.Sub(aim, from))
			}
			for i := range boxes {
				di, met := enters(&boxes[i], from, way)
				for j := 0; met && j < i; j++ {
					if dj, also := enters(&boxes[j], from, way); also {
						pairs++
						require.Equal(
							t,
							di > dj,
							place[i] < place[j],
							"scene %d: %d at %g mm, %d at %g",
							scene,
							i,
							di,
							j,
							dj,
						)
					}
				}
			}
		}
	}
	assert.Greater(t, pairs, 5000)
}

func cube(half float64, at space.Vec) Box {
	h := space.Vec{X: half, Y: half, Z: half}
	return Box{space.Box{Min: r3.Scale(-1, h), Max: h}, space.Translation(at)}
}

// A long plate whose middle is nearer than a cube in front of one of its ends, seen from above.
func TestAPlateLiesBehindWhatStandsBeforeItsFarEnd(t *testing.T) {
	plate := Box{
		space.Box{Min: space.Vec{X: -100, Y: -1, Z: -100}, Max: space.Vec{X: 100, Y: 1, Z: 100}},
		space.Translation(space.Vec{}),
	}
	eye := Eye{At: space.Vec{Y: 20, Z: 300}, Ahead: space.Vec{Z: -1}}
	assert.Equal(t, []int{0, 1}, BackToFront([]Box{plate, cube(4, space.Vec{Y: 6, Z: -90})}, eye))
	assert.Equal(t, []int{1, 0}, BackToFront([]Box{plate, cube(4, space.Vec{Y: -6, Z: 90})}, eye))
}

func TestAHousingIsDrawnOverWhatIsInIt(t *testing.T) {
	housing, gear := cube(50, space.Vec{}), cube(10, space.Vec{X: 5, Z: 20})
	for _, parallel := range []bool{false, true} {
		for _, ahead := range []space.Vec{{Z: -1}, {Z: 1}, {X: 1}, {Y: -1}} {
			eye := Eye{At: r3.Scale(-300, ahead), Ahead: ahead, Orthographic: parallel}
			assert.Equal(t, []int{1, 0}, BackToFront([]Box{housing, gear}, eye), "ahead %v", ahead)
		}
	}
}

// A knob stands in a panel, with its shaft behind it in the box that the panel closes: the three
// boxes reach into each other.
func TestAKnobIsDrawnOverThePanelThatItStandsIn(t *testing.T) {
	box := func(x, y, z, width, height, depth float64) Box {
		half := space.Vec{X: width / 2, Y: height / 2, Z: depth / 2}
		return Box{space.Box{Min: r3.Scale(-1, half), Max: half}, space.Translation(space.Vec{X: x, Y: y, Z: z})}
	}
	knob, panel, base := box(68, -22, 3.8, 27, 27, 27.6), box(20, 0, -3, 144, 112, 6), box(20, -28, -59, 144, 56, 106)
	for _, at := range []space.Vec{{X: 313, Y: 136, Z: 105}, {X: -200, Y: 20, Z: 300}, {Z: 350}} {
		ahead, _ := space.Normalize(r3.Scale(-1, at))
		assert.Equal(t, []int{2, 1, 0}, BackToFront([]Box{knob, panel, base}, Eye{At: at, Ahead: ahead}), "from %v", at)
	}
	back := space.Vec{X: 100, Y: 200, Z: -300}
	ahead, _ := space.Normalize(r3.Scale(-1, back))
	assert.Equal(t, []int{0, 1, 2}, BackToFront([]Box{knob, panel, base}, Eye{At: back, Ahead: ahead}), "from behind")
}

// Three bars, each over the next one's end and under the last one's, hide each other in a ring.
func TestARingOfBarsIsToldCompletely(t *testing.T) {
	bar := func(at, half space.Vec, degrees float64) Box {
		return Box{
			space.Box{Min: r3.Scale(-1, half), Max: half},
			space.Rigid{R: space.AxisAngle(space.Vec{X: 1}, degrees), T: at},
		}
	}
	var ring []Box
	for k := range 3 {
		turn := space.AxisAngle(space.Vec{Z: 1}, 120*float64(k))
		b := bar(space.Vec{}, space.Vec{X: 2, Y: 30, Z: 1}, 20)
		b.World = space.Rigid{R: turn.Mul(&b.World.R), T: turn.Apply(space.Vec{X: 12})}
		ring = append(ring, b)
	}
	order := BackToFront(ring, Eye{At: space.Vec{Z: 200}, Ahead: space.Vec{Z: -1}})
	assert.ElementsMatch(t, []int{0, 1, 2}, order)
	assert.Empty(t, BackToFront(nil, Eye{}))
}

func BenchmarkOrderOf100(b *testing.B) {
	boxes := shelf(rand.New(rand.NewPCG(1, 1)), 100)
	eye := Eye{At: space.Vec{X: -300, Y: 100, Z: 400}, Ahead: space.Vec{X: 0.6, Z: -0.8}}
	for b.Loop() {
		BackToFront(boxes, eye)
	}
}

// More boxes than are held against each other: a row of cubes, seen along it.
func TestManyBoxesAreToldByWhatTheyReachNearest(t *testing.T) {
	n := 2 * mostOrdered
	var row []Box
	for i := range n {
		row = append(row, cube(1, space.Vec{Z: float64(-10 * ((i * 7) % n))})) // 7 and n have no divisor in common
	}
	order := BackToFront(row, Eye{At: space.Vec{Z: 50}, Ahead: space.Vec{Z: -1}})
	require.Len(t, order, n)
	for k := 1; k < n; k++ {
		assert.Less(t, row[order[k-1]].World.T.Z, row[order[k]].World.T.Z)
	}
}
