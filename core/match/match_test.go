package match_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// revision is the example, to be changed; of each node it knows which one of the example it is.
type revision struct {
	assembly.Assembly
	shapes []*solid.Shape
	was    []int
}

func newRevision() *revision {
	m := demo.Pump()
	r := &revision{Assembly: *m.Assembly, shapes: slices.Clone(m.Shapes)}
	for i := range r.Nodes {
		r.was = append(r.was, i)
	}
	return r
}

// name gives all nodes the ids that their names make.
func (r *revision) name() {
	var namer assembly.Namer
	ids := map[assembly.NodeID]assembly.NodeID{}
	for i := range r.Nodes {
		n := &r.Nodes[i]
		was := n.ID
		if n.Parent < 0 {
			n.ID = assembly.Root
		} else {
			n.ID = namer.Child(r.Nodes[n.Parent].ID, n.Name)
		}
		ids[was] = n.ID
	}
	r.Joints, r.Couplings = nil, nil
}

func (r *revision) find(name string) int {
	return slices.IndexFunc(r.Nodes, func(n assembly.Node) bool { return n.Name == name })
}

func (r *revision) shift(i int, d space.Vec3) {
	for k := range d {
		r.Nodes[i].Pose.Move[k] += d[k]
	}
}

// reorder puts children of each node into another order.
func (r *revision) reorder(random *rand.Rand) {
	var order []int
	var walk func(i int)
	walk = func(i int) {
		order = append(order, i)
		var children []int
		for k := range r.Nodes {
			if r.Nodes[k].Parent == i {
				children = append(children, k)
			}
		}
		random.Shuffle(len(children), func(a, b int) { children[a], children[b] = children[b], children[a] })
		for _, k := range children {
			walk(k)
		}
	}
	walk(0)
	at := make([]int, len(order))
	for to, from := range order {
		at[from] = to
	}
	nodes, was := make([]assembly.Node, len(order)), make([]int, len(order))
	for to, from := range order {
		nodes[to], was[to] = r.Nodes[from], r.was[from]
		if p := nodes[to].Parent; p >= 0 {
			nodes[to].Parent = at[p]
		}
	}
	r.Nodes, r.was = nodes, was
}

// reshape gives a node's part a shape of its own: grown, or mirrored by a negative factor.
func (r *revision) reshape(i int, x, y, z float64) {
	from := r.shapes[r.Nodes[i].Shape]
	mesh := solid.Mesh{Triangles: slices.Clone(from.Triangles), Submeshes: slices.Clone(from.Submeshes)}
	for k, v := range from.Positions {
		mesh.Positions = append(mesh.Positions, v*float32([3]float64{x, y, z}[k%3]))
	}
	if x*y*z < 0 {
		for t := 0; t < len(mesh.Triangles); t += 3 {
			mesh.Triangles[t], mesh.Triangles[t+1] = mesh.Triangles[t+1], mesh.Triangles[t]
		}
	}
	r.wear(i, mesh)
}

// wear gives a node's part a body of its own.
func (r *revision) wear(i int, mesh solid.Mesh) {
	s, _, err := solid.New(mesh)
	if err != nil {
		panic(err)
	}
	r.Shapes = append(slices.Clone(r.Shapes), assembly.ShapeRef{
		Hash: s.Hash(), Triangles: len(s.Triangles) / 3, Submeshes: len(s.Submeshes),
		Min: space.Vec3Of(s.Bounds.Min), Max: space.Vec3Of(s.Bounds.Max),
	})
	r.shapes = append(r.shapes, s)
	r.Nodes[i].Shape = len(r.Shapes) - 1
}

// remove takes nodes without children out.
func (r *revision) remove(i int) {
	r.Nodes, r.was = slices.Delete(slices.Clone(r.Nodes), i, i+1), slices.Delete(r.was, i, i+1)
	for k := range r.Nodes {
		if r.Nodes[k].Parent > i {
			r.Nodes[k].Parent--
		}
	}
}

// add puts a copy of a part beside it, as a new part.
func (r *revision) add(i int, d space.Vec3) {
	n := r.Nodes[i]
	r.Nodes = append(r.Nodes, n)
	r.was = append(r.was, -1)
	r.shift(len(r.Nodes)-1, d)
}

// Each kind of change has a known answer: almost all is matched, and nothing that is called sure is wrong.
func TestRevisionsAreMatched(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	changes := map[string]func(r *revision){
		"nothing":           func(*revision) {},
		"random node order": func(r *revision) { r.reorder(random) },
		"all renamed": func(r *revision) {
			for i := range r.Nodes {
				r.Nodes[i].Name = fmt.Sprintf("Body%d", random.IntN(1000))
			}
		},
		"a subassembly renamed": func(r *revision) { r.Nodes[r.find("Planet stage")].Name = "Gearbox" },
		"all regrouped": func(r *revision) {
			worlds := r.Worlds()
			for i := range r.Nodes {
				if n := &r.Nodes[i]; n.IsPart() {
					n.Parent, n.Pose = 0, assembly.PoseOf(worlds[i])
				} else if i > 0 {
					r.was[i] = -1 // nothing is in it any more
				}
			}
		},
		"one moved":       func(r *revision) { r.shift(r.find("Controller"), space.Vec3{6, 4, 0}) },
		"a group moved":   func(r *revision) { r.shift(r.find("Drive"), space.Vec3{0, 0, -12}) },
		"the whole moved": func(r *revision) { r.shift(0, space.Vec3{120, -35, 60}) },
		"another axis up": func(r *revision) {
			r.Nodes[0].Pose = assembly.PoseOf(space.Rigid{R: space.AxisAngle(space.Vec{X: 1}, -90)})
		},
		"another unit": func(r *revision) {
			for i := range r.Nodes {
				for k := range 3 {
					r.Nodes[i].Pose.Move[k] *= 25.4
				}
				if r.Nodes[i].IsPart() {
					r.reshape(i, 25.4, 25.4, 25.4)
				}
			}
		},
		"resized":  func(r *revision) { r.reshape(r.find("Hood"), 1.08, 1, 1) },
		"mirrored": func(r *revision) { r.reshape(r.find("Controller"), -1, 1, 1) },
		"resized, renamed": func(r *revision) {
			r.reshape(r.find("Motor"), 1, 1, 1.1)
			r.Nodes[r.find("Motor")].Name = "Motor 24 V"
		},
		"one gone":     func(r *revision) { r.remove(r.find("Shaft seal")) },
		"a twin added": func(r *revision) { r.add(r.find("Capacitor"), space.Vec3{11, 0, 0}) },
		"six screws added": func(r *revision) {
			for k := range 6 {
				r.add(r.find("Board screw M3 × 6"), space.Vec3{float64(7 * (k + 1)), 5, 0})
			}
		},
		"another triangulation": func(r *revision) {
			for i := range r.Nodes {
				if r.Nodes[i].IsPart() && r.Nodes[i].Name != "Foot" {
					r.reshape(i, 1.0000001, 1, 1)
				}
			}
		},
		"several at once": func(r *revision) {
			r.shift(r.find("Drive"), space.Vec3{0, 0, -4})
			r.reshape(r.find("Rotor cover"), 1, 1, 1.5)
			r.Nodes[r.find("Hood")].Name = "Top cover"
			r.remove(r.find("Door gasket"))
			r.add(r.find("Foot"), space.Vec3{30, 0, 0})
			r.reorder(random)
		},
	}
	for name, change := range changes {
		t.Run(name, func(t *testing.T) { matched(t, change) })
	}
}

// matched holds what is found after a change against what is known of it.
func matched(t *testing.T, change func(r *revision)) {
	t.Helper()
	old := demo.Pump()
	r := newRevision()
	change(r)
	r.name()
	require.NoError(t, r.Check())
	out := match.Of(
		match.Side{Assembly: old.Assembly, Shapes: old.Shapes},
		match.Side{Assembly: &r.Assembly, Shapes: r.shapes},
	)
	right := 0
	truth := map[assembly.NodeID][]assembly.NodeID{}
	for k := range r.Nodes {
		if r.was[k] >= 0 {
			id := old.Assembly.Nodes[r.was[k]].ID
			truth[id] = append(truth[id], r.Nodes[k].ID)
		}
	}
	all := len(truth)
	for _, p := range out.Pairs {
		if slices.Contains(truth[p.Old], p.New) {
			right++
			continue
		}
		assert.False(t, p.Sure, "%s became %s, not %s: %s", p.Old, truth[p.Old], p.New, p.Why)
		// One of several alike that stand at the same place may be any of them.
		t.Logf("%s was taken for %s (%v)", p.Old, p.New, p.Confidence)
	}
	assert.GreaterOrEqual(t, float64(right)/float64(all), 0.99, "%d of %d", right, all)
	kept := out.Kept(&r.Assembly)
	require.NoError(t, kept.Check())
}

// A thousand parts, or some hundred: who else writes the same assembly in another order and with other names is matched, too; nothing is wrong for sure.
func TestAThousandPartsAreMatched(t *testing.T) {
	n := 1000
	if testing.Short() {
		n = 300
	}
	m := demo.Stress(n, 60)
	r := &revision{Assembly: *m.Assembly, shapes: m.Shapes}
	for i := range r.Nodes {
		r.was = append(r.was, i)
	}
	r.reorder(rand.New(rand.NewPCG(7, 8)))
	for i := range r.Nodes {
		r.Nodes[i].Name = fmt.Sprintf("P%d", i)
	}
	r.name()
	out := match.Of(
		match.Side{Assembly: m.Assembly, Shapes: m.Shapes},
		match.Side{Assembly: &r.Assembly, Shapes: r.shapes},
	)
	wrong := 0
	for _, p := range out.Pairs {
		k := r.Index()[p.New]
		if m.Assembly.Nodes[r.was[k]].ID != p.Old {
			wrong++
			assert.False(t, p.Sure)
		}
	}
	assert.Zero(t, wrong)
	assert.Empty(t, out.Gone)
}

// A file that says nothing of joints keeps those that the revision before had, between what is still there.
func TestJointsStayWhereTheirPartsAre(t *testing.T) {
	old := demo.Pump()
	old.Assembly.Hazards = []assembly.NodeHazard{
		{Node: "planet-stage", Hazard: assembly.Heavy}, {Node: "drive/motor-shaft", Hazard: assembly.Sharp},
	}
	r := newRevision()
	r.Nodes[r.find("Planet stage")].Name = "Gearbox"
	r.remove(r.find("Motor shaft"))
	r.name()
	out := match.Of(
		match.Side{Assembly: old.Assembly, Shapes: old.Shapes},
		match.Side{Assembly: &r.Assembly, Shapes: r.shapes},
	)
	for _, p := range out.Pairs {
		if p.Old == "planet-stage" {
			assert.True(t, p.Sure, "all that is in it is known")
		}
	}
	kept := out.Kept(&r.Assembly)
	match.KeepSaid(old.Assembly, kept)
	require.NoError(t, kept.Check())
	assert.Len(t, kept.Joints, len(old.Assembly.Joints)-2, "the motor's shaft is gone, and what was fixed on it")
	assert.Nil(t, kept.FindJoint("motor"))
	assert.NotNil(t, kept.FindJoint("carrier"))
	assert.Equal(t, old.Assembly.Hazards[:1], kept.Hazards, "what is to be minded, too")
	told := out.Comparison(old.Assembly, kept)
	assert.Len(t, told.Gone, 1)
	assert.Empty(t, told.Added)
}

// Very many parts that have all moved and been renamed are matched in bounded time: nothing is wrong for sure.
func TestVeryManyPartsTakeBoundedTime(t *testing.T) {
	parts := 4000
	if testing.Short() {
		parts = 2000
	}
	m := demo.Stress(parts, 30)
	r := &revision{Assembly: *m.Assembly, shapes: m.Shapes}
	r.Nodes = slices.Clone(r.Nodes)
	for i := range r.Nodes {
		r.was = append(r.was, i)
		if i > 0 {
			r.shift(i, space.Vec3{3, 1, 2})
		}
		if i%2 == 0 && i > 0 {
			r.Nodes[i].Name = fmt.Sprintf("P%d", i)
		}
	}
	r.name()
	out := match.Of(
		match.Side{Assembly: m.Assembly, Shapes: m.Shapes},
		match.Side{Assembly: &r.Assembly, Shapes: r.shapes},
	)
	index := r.Index()
	for _, p := range out.Pairs {
		if m.Assembly.Nodes[r.was[index[p.New]]].ID != p.Old {
			assert.False(t, p.Sure)
		}
	}
	require.NoError(t, out.Kept(&r.Assembly).Check())
}
