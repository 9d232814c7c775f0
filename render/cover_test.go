package render

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// corner is a point on the screen in pixels with its 1/z.
type corner struct{ x, y, w float64 }

func faceOf(id int32, c ...corner) *face {
	f := &face{id: id}
	for i := range 3 {
		f.x[i], f.y[i], f.w[i] = int32(math.Round(c[i].x*subPixel)), int32(math.Round(c[i].y*subPixel)), float32(c[i].w)
	}
	defer func() { f.x[3], f.y[3], f.w[3] = f.x[2], f.y[2], f.w[2] }()
	area := int64(f.x[1]-f.x[0])*int64(f.y[2]-f.y[0]) - int64(f.x[2]-f.x[0])*int64(f.y[1]-f.y[0])
	if area < 0 {
		f.x[1], f.x[2], f.y[1], f.y[2], f.w[1], f.w[2] = f.x[2], f.x[1], f.y[2], f.y[1], f.w[2], f.w[1]
	}
	return f
}

// coverAlone draws a face into a picture of one tile.
func coverAlone(t *tile, f *face, into *layer) {
	if f.bound(t.x0+tileSide, t.y0+tileSide) {
		t.rasterise(f, into)
	}
}

func newTile() *tile {
	t := &tile{w: tileSide, h: tileSide}
	t.clear()
	return t
}

// A fan of triangles around a point covers every sample inside exactly once:
// no gap and no overlap along the shared edges.
func TestFacesThatShareEdgesCoverEverySampleOnce(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 2))
	for range 40 {
		count := [tileSide][tileSide * samples]int{}
		centre := corner{x: 20 + 24*random.Float64(), y: 20 + 24*random.Float64(), w: 1}
		n := 3 + random.IntN(9)
		around := make([]corner, n)
		for i := range around {
			s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
			around[i] = corner{centre.x + 200*c, centre.y + 200*s, 1}
		}
		for i := range around {
			one := newTile()
			coverAlone(one, faceOf(int32(i+1), centre, around[i], around[(i+1)%n]), &one.solid)
			for y := range count {
				for k, o := range one.solid.rowOf(y) {
					if o != noFace {
						count[y][k]++
					}
				}
			}
		}
		for y := range count {
			for k, n := range count[y] {
				require.Equal(t, 1, n, "row %d, sample %d", y, k)
			}
		}
	}
}

// Coverage against the definition: a sample is inside when it lies on the same
// side of all three edges, tested with exact integers.
func TestCoverageIsThatOfTheDefinition(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	for k := range 300 {
		c := make([]corner, 3)
		reach := []float64{40, 120, 400, 3000}[k%4] // there is a path for each order of size
		for i := range c {
			c[i] = corner{32 + (random.Float64()-0.5)*reach, 32 + (random.Float64()-0.5)*reach, 0.5 + random.Float64()}
		}
		f := faceOf(3, c...)
		one := newTile()
		coverAlone(one, f, &one.solid)
		for y := range tileSide {
			for x := range tileSide {
				for s := range samples {
					px, py := int64(x*subPixel)+int64(offsets[s][0]), int64(y*subPixel)+int64(offsets[s][1])
					inside, border := true, false
					for i := range 3 {
						j := (i + 1) % 3
						e := int64(f.x[j]-f.x[i])*(py-int64(f.y[i])) - int64(f.y[j]-f.y[i])*(px-int64(f.x[i]))
						inside, border = inside && e >= 0, border || e == 0
					}
					if !border {
						require.Equal(t, inside, one.solid.id[sampleAt(x, y)+s] == 3)
					}
				}
			}
		}
	}
}

func TestTheNearerFaceWinsWhateverTheOrder(t *testing.T) {
	far := faceOf(1, corner{-10, -10, 0.5}, corner{90, -10, 0.5}, corner{-10, 90, 0.5})
	near := faceOf(2, corner{-10, -10, 0.7}, corner{90, -10, 0.7}, corner{-10, 90, 0.7})
	same := faceOf(9, corner{-10, -10, 0.7}, corner{90, -10, 0.7}, corner{-10, 90, 0.7})
	for _, order := range [][]*face{{far, near, same}, {same, near, far}, {near, far, same}} {
		one := newTile()
		for _, f := range order {
			coverAlone(one, f, &one.solid)
			one.updateHiZ([4]int{0, 0, tileSide - 1, tileSide - 1})
		}
		assert.Equal(t, int32(9), one.solid.id[0], "at equal depth the higher number wins")
		assert.InDelta(t, 0.7, one.solid.inverseZ[0], 1e-6)
	}
}

func TestHiddenOnlySkipsWhatCannotShow(t *testing.T) {
	one := newTile()
	coverAlone(one, faceOf(1, corner{-10, -10, 0.5}, corner{200, -10, 0.5}, corner{-10, 200, 0.5}), &one.solid)
	one.updateHiZ([4]int{0, 0, tileSide - 1, tileSide - 1})
	assert.True(t, one.occluded(0.49, 3, 3, 20, 20))
	assert.False(t, one.occluded(0.5, 3, 3, 20, 20), "equally near may win by its number")
	assert.False(t, one.occluded(0.9, 3, 3, 4, 4))
	empty := newTile()
	assert.False(t, empty.occluded(1e-9, 0, 0, 1, 1))
}

// Twenty fragments on one pixel, held against sorting them.
func TestSheetsAreKeptFromNearToFar(t *testing.T) {
	one := newTile()
	random := rand.New(rand.NewPCG(1, 9))
	lay := func(depth, alpha float32) {
		one.row.depth[5], one.row.alpha[5] = depth, alpha
		one.row.rgb.set(5, &[3]float32{depth, 2 * depth, 3 * depth})
		insertPlain(one, 0, 1<<5)
	}
	var depths []float32
	for range 20 {
		depths = append(depths, random.Float32())
		lay(depths[len(depths)-1], 0.5)
	}
	lay(2, 0) // of no weight, not kept
	slices.SortFunc(depths, func(a, b float32) int { return cmp.Compare(b, a) })
	require.Equal(t, uint8(maxFragments), one.fragmentCounts[0])
	for i := range maxFragments {
		assert.Equal(t, depths[i], one.fragments[i].inverseZ[5])
		assert.Equal(t, 3*depths[i], one.fragments[i].b[5])
	}
	assert.Equal(t, uint64(1<<5), one.covered[0])
}

// plate is a square of side 2·half at z = 0 of its own frame, facing +Z.
func plate(half float32) *solid.Shape {
	s, _, err := solid.New(
		solid.Mesh{
			Positions: []float32{-half, -half, 0, half, -half, 0, half, half, 0, -half, half, 0},
			Triangles: []uint32{0, 1, 2, 0, 2, 3},
		},
	)
	if err != nil {
		panic(err)
	}
	return s
}

// stage draws plates at the given z with the given opacities, seen from +Z at a
// distance of 100 mm with a lens of 18 mm (±45°), and returns the middle pixel.
func middle(t *testing.T, colours [][3]float64, z, opacity []float64) [3]float64 {
	t.Helper()
	a := &assembly.Assembly{
		Nodes:  []assembly.Node{{ID: "/", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)}},
		Shapes: []assembly.ShapeRef{{Submeshes: 1, Min: space.Vec3{-20, -20, 0}, Max: space.Vec3{20, 20, 0}}},
	}
	for i := range colours {
		a.Finishes = append(a.Finishes, assembly.Finish{Colour: colours[i], Opacity: 1, Roughness: 1})
		a.Nodes = append(
			a.Nodes,
			assembly.Node{
				ID:       assembly.NodeID(rune('a' + i)),
				Parent:   0,
				Shape:    0,
				Finishes: []int{i},
				Pose:     assembly.PoseOf(space.Translation(space.Vec{Z: z[i]})),
			},
		)
	}
	r := reveal.New("x", reveal.Camera{Orientation: space.NoRotation, Distance: 100, FocalLength: 18})
	for i, o := range opacity {
		if o < 1 {
			r.Opening.Opacities = append(r.Opening.Opacities, reveal.NodeOpacity{Node: a.Nodes[i+1].ID, Opacity: o})
		}
	}
	scene, err := NewScene(a, []*solid.Shape{plate(20)})
	require.NoError(t, err)
	f := film.Compile(a, r)
	fr := f.NewFrame()
	f.At(0, fr)
	view := scene.NewView()
	view.Take(scene, fr, 1)
	renderer, err := NewRenderer(scene, 65, 65, 1)
	require.NoError(t, err)
	p := NewPicture(65, 65)
	renderer.Draw(view, p)
	at := 3 * (32*65 + 32)
	return [3]float64{float64(p.RGB[at]), float64(p.RGB[at+1]), float64(p.RGB[at+2])}
}

// Over-compositing on display values (docs/look.md): the colour of a stack of
// see-through plates follows from those of the single plates, in any order of
// the document.
func TestSeeThroughPlatesBlendFromFarToNear(t *testing.T) {
	red, blue, white := [3]float64{0.8, 0.05, 0.05}, [3]float64{0.05, 0.05, 0.8}, [3]float64{0.9, 0.9, 0.9}
	r := middle(t, [][3]float64{red}, []float64{0}, []float64{1})
	b := middle(t, [][3]float64{blue}, []float64{0}, []float64{1})
	w := middle(t, [][3]float64{white}, []float64{0}, []float64{1})
	over := func(top [3]float64, alpha float64, under [3]float64) (c [3]float64) {
		for k := range 3 {
			c[k] = under[k] + (top[k]-under[k])*alpha
		}
		return c
	}
	want := over(r, 0.5, over(b, 0.25, w))
	for name, got := range map[string][3]float64{
		"in order": middle(t, [][3]float64{white, blue, red}, []float64{-10, 0, 10}, []float64{1, 0.25, 0.5}),
		"reversed": middle(t, [][3]float64{red, blue, white}, []float64{10, 0, -10}, []float64{0.5, 0.25, 1}),
	} {
		for k := range 3 {
			assert.InDelta(t, want[k], got[k], 3, name)
		}
	}
	hidden := middle(t, [][3]float64{white, red}, []float64{10, -10}, []float64{1, 0.5})
	for k := range 3 {
		assert.InDelta(t, w[k], hidden[k], 2, "what lies behind a solid plate does not show")
	}
}

func TestWhatIsBehindTheEyeIsCutOff(t *testing.T) {
	// A long floor runs from in front of the eye to far behind it.
	a := [3]float32{-1, -5, 100}
	b := [3]float32{1, -5, -200}
	require.True(t, cutNear(&a, &b))
	assert.InDelta(t, -near, a[2], 1e-5)
	assert.Equal(t, [3]float32{1, -5, -200}, b)
	c, d := [3]float32{0, 0, 5}, [3]float32{0, 0, 9}
	assert.False(t, cutNear(&c, &d))
}

// IEC 61966-2-1: the curve of the table against the formula, light beyond the knee held back, within 0.1/255.
func TestTheCurveIsSRGB(t *testing.T) {
	for i := range 100_001 {
		light := float64(i) / 100_000 * 4
		v := light
		if v > 0.7 {
			v = 0.7 + 0.3*(1-math.Exp(-(v-0.7)/0.3))
		}
		want := 1.055*math.Pow(v, 1/2.4) - 0.055
		if v <= 0.0031308 {
			want = 12.92 * v
		}
		require.InDelta(t, want, encodeSRGB(float32(light)), 0.1/255)
	}
	assert.InDelta(t, 1, encodeSRGB(7), 1e-5)
	assert.LessOrEqual(t, encodeSRGB(7), float32(1))
	assert.Equal(t, float32(0), encodeSRGB(-1))
}

// A strip covers what lies within half its width of its line, and a little past its
// ends: tested with the definition, away from the border by a hundredth of a pixel.
func TestAStripCoversWhatLiesBesideItsLine(t *testing.T) {
	random := rand.New(rand.NewPCG(11, 3))
	for range 200 {
		at := func() float64 { return (random.Float64()*100 - 20) * subPixel }
		ax, ay, bx, by, half := at(), at(), at(), at(), 30+random.Float64()*400
		f, ok := stripOf(
			[2]float32{float32(ax), float32(ay)},
			[2]float32{float32(bx), float32(by)},
			0.5,
			0.8,
			nib{half: float32(half)},
			-7,
		)
		require.True(t, ok)
		one := newTile()
		coverAlone(one, &f, &one.solid)
		dx, dy := bx-ax, by-ay
		length := math.Hypot(dx, dy)
		for y := range tileSide {
			for x := range tileSide {
				for s := range samples {
					px, py := float64(x*subPixel+int(offsets[s][0]))-ax, float64(y*subPixel+int(offsets[s][1]))-ay
					along, aside := (px*dx+py*dy)/length, math.Abs(px*dy-py*dx)/length
					out := math.Max(aside-half, math.Max(-along, along-length)-half/2)
					if math.Abs(out) < 2.56 {
						continue
					}
					i := sampleAt(x, y) + s
					require.Equal(t, out < 0, one.solid.id[i] == -7, "a sample %g beyond the border", out)
					if out < 0 {
						require.InDelta(t, 0.5+0.3*math.Max(0, math.Min(along/length, 1)), one.solid.inverseZ[i], 1e-3)
					}
				}
			}
		}
	}
}

// Small faces have a path of their own: it must cover what the other one covers.
func TestSmallFacesAreCoveredAsLargeOnesAre(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 5))
	for range 500 {
		cx, cy := random.Float64()*70-3, random.Float64()*70-3
		c := make([]corner, 3)
		for i := range c {
			c[i] = corner{cx + random.Float64()*12, cy + random.Float64()*12, 0.5 + random.Float64()}
		}
		f := faceOf(3, c...)
		small, large := newTile(), newTile()
		coverAlone(small, f, &small.solid)
		if f.bound(tileSide, tileSide) {
			large.edges.id = f.id
			large.edges.least, large.edges.nearest = f.reach()
			large.rasteriseWide(f, &large.solid, int32(f.left)&^1, int32(f.top), int32(f.right), int32(f.bottom))
		}
		require.Equal(t, large.solid.id, small.solid.id)
		worst := 0.0
		for i, d := range large.solid.inverseZ {
			worst = max(worst, math.Abs(float64(d-small.solid.inverseZ[i])))
		}
		require.LessOrEqual(t, worst, 1e-4)
	}
}
