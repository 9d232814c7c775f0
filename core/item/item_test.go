package item_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/assembly"
	"slowreveal/core/item"
	"slowreveal/core/survey"
	"slowreveal/demo"
)

func TestQuantitiesAreThoseOfTheTree(t *testing.T) {
	m := demo.Pump()
	a := m.Assembly
	facts := survey.Shapes(a, m.Shapes)
	for _, order := range []item.Sorting{item.ByTree, item.ByName, item.ByQuantity} {
		items := item.List(a, facts, nil, item.Settings{Order: order})
		sum, seen := 0, map[assembly.NodeID]bool{}
		for i, it := range items {
			assert.Equal(t, i+1, it.Number)
			assert.Len(t, it.Parts, it.Quantity)
			sum += it.Quantity
			for k, id := range it.Parts {
				assert.False(t, seen[id], "%s is in two items", id)
				seen[id] = true
				first, other := &a.Nodes[it.Nodes[0]], &a.Nodes[it.Nodes[k]]
				assert.Equal(t, facts[first.Shape].Like, facts[other.Shape].Like)
				assert.Equal(t, first.Finishes, other.Finishes)
			}
		}
		assert.Equal(t, a.Parts(), sum)
	}
	items := item.List(a, facts, nil, item.Settings{})
	byName := map[string]item.Item{}
	for _, it := range items {
		byName[it.Name] = it
	}
	assert.Equal(t, 4, byName["Cover screw M3 × 12"].Quantity)
	assert.Equal(t, "ISO 4762 – M3 × 12", byName["Cover screw M3 × 12"].Designation)
	assert.Equal(t, "ISO 15 – 8 × 22 × 7", byName["Bearing"].Designation)
	assert.Equal(t, 3, byName["Planet gear, 18 teeth"].Quantity)
	last := items[len(items)-1]
	assert.NotEmpty(t, last.Designation, "standard parts come last")
}

func TestMassIsVolumeTimesDensity(t *testing.T) {
	m := demo.Pump()
	facts := survey.Shapes(m.Assembly, m.Shapes)
	items := item.List(m.Assembly, facts, nil, item.Settings{Densities: map[string]float64{"Bare steel": 7.85}})
	some := false
	for _, it := range items {
		if it.Finish != "Bare steel" {
			assert.Zero(t, it.Mass, it.Name)
			continue
		}
		some = true
		shape := m.Assembly.Nodes[it.Nodes[0]].Shape
		assert.InDelta(t, m.Shapes[shape].Volume()*7.85e-3, it.Mass, 1e-6)
	}
	assert.True(t, some)
}

func TestNamesWithoutTheirNumbers(t *testing.T) {
	for name, want := range map[string]string{
		"Washer 3": "Washer", "Washer:12": "Washer", "Washer (2)": "Washer", "Nut <4>": "Nut", "bolt_2": "bolt", "part-7": "part",
		"Screw M4 × 16": "Screw M4 × 16", "Screw M4x16": "Screw M4x16", "Tube 6.4 × 9": "Tube 6.4 × 9", "42": "42", "Body12": "Body12",
	} {
		assert.Equal(t, want, item.Plain(name), name)
	}
}

// drawing is one by chance: places on parts inside a rectangle, more than one for some items.
func drawing(r *rand.Rand, items int) ([][]item.Candidate, item.Area) {
	w, h := 80+200*r.Float64(), 60+150*r.Float64()
	list := make([][]item.Candidate, items)
	for i := range list {
		for range 1 + r.IntN(4) {
			list[i] = append(
				list[i],
				item.Candidate{
					Point: item.Point{X: 100 + w*r.Float64(), Y: 100 + h*r.Float64()},
					Room:  4 * r.Float64(),
					Node:  i,
				},
			)
		}
	}
	return list, item.Area{
		InnerMin: item.Point{X: 100, Y: 100}, InnerMax: item.Point{X: 100 + w, Y: 100 + h},
		OuterMin: item.Point{X: 78, Y: 78}, OuterMax: item.Point{X: 122 + w, Y: 122 + h}, Radius: 4.3,
	}
}

func TestLeadersNeitherCrossNorRunThroughBalloons(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 1))
		candidates, area := drawing(r, 3+r.IntN(34))
		for area.Room() < len(candidates) {
			area.Radius *= 0.9
		}
		placed, missing := item.Place(candidates, area)
		assert.Empty(t, missing)
		assert.Len(t, placed, len(candidates))
		for i := range placed {
			a := &placed[i]
			assert.True(
				t,
				a.Centre.X >= area.OuterMin.X && a.Centre.X <= area.OuterMax.X && a.Centre.Y >= area.OuterMin.Y &&
					a.Centre.Y <= area.OuterMax.Y,
			)
			assert.Contains(t, points(candidates[a.Item]), a.From)
			for k := range placed {
				b := &placed[k]
				if i < k {
					assert.False(t, item.Cross(a, b), "seed %d: leaders of %d and %d cross", seed, a.Item, b.Item)
					assert.GreaterOrEqual(
						t,
						math.Hypot(a.Centre.X-b.Centre.X, a.Centre.Y-b.Centre.Y),
						2*area.Radius,
						"seed %d: balloons overlap",
						seed,
					)
				}
				if i != k {
					assert.False(
						t,
						a.Runs(b.Centre, area.Radius),
						"seed %d: the leader of %d runs through balloon %d",
						seed,
						a.Item,
						b.Item,
					)
				}
			}
		}
		if t.Failed() {
			return
		}
	}
}

func points(list []item.Candidate) (out []item.Point) {
	for _, c := range list {
		out = append(out, c.Point)
	}
	return out
}

func TestWhatIsNotSeenIsMissingAndWhatWasPlacedByHandStays(t *testing.T) {
	candidates, area := drawing(rand.New(rand.NewPCG(5, 5)), 12)
	candidates[4] = nil
	area.Fixed = map[int]item.Point{7: {X: 90, Y: 140}}
	placed, missing := item.Place(candidates, area)
	assert.Equal(t, []int{4}, missing)
	for _, p := range placed {
		if p.Item == 7 {
			assert.Equal(t, item.Point{X: 90, Y: 140}, p.Centre)
		}
	}
	again, _ := item.Place(candidates, area)
	assert.Equal(t, placed, again)
}

// When the view changes by half a millimetre, balloons stay where they are or slide a little; few change places.
func TestPlacesAreSteady(t *testing.T) {
	moved, all := 0, 0
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 2))
		candidates, area := drawing(r, 16)
		before, _ := item.Place(candidates, area)
		for i := range candidates {
			for k := range candidates[i] {
				candidates[i][k].X += r.Float64() - 0.5
				candidates[i][k].Y += r.Float64() - 0.5
			}
		}
		after, _ := item.Place(candidates, area)
		for i := range before {
			all++
			if math.Hypot(before[i].Centre.X-after[i].Centre.X, before[i].Centre.Y-after[i].Centre.Y) > 3*area.Radius {
				moved++
			}
		}
	}
	t.Logf("%d of %d moved farther than a balloon's width", moved, all)
	assert.Less(t, float64(moved)/float64(all), 0.12)
}

// Where there is no room all the same each has a place, and it ends.
func TestWithoutRoomEachHasAPlaceAllTheSame(t *testing.T) {
	candidates, area := drawing(rand.New(rand.NewPCG(9, 9)), 40)
	area.OuterMin, area.OuterMax = area.InnerMin, item.Point{X: area.InnerMin.X + 1, Y: area.InnerMin.Y + 1}
	area.InnerMax = area.OuterMax
	area.Fixed = map[int]item.Point{0: {X: 100, Y: 100}}
	placed, _ := item.Place(candidates, area)
	assert.Len(t, placed, 40)
}

func BenchmarkPlace(b *testing.B) {
	candidates, area := drawing(rand.New(rand.NewPCG(1, 1)), 60)
	for b.Loop() {
		item.Place(candidates, area)
	}
}
