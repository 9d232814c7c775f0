package mechanism

import (
	"fmt"
	"math"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Driver is a joint whose value is given, and between which values that is: degrees or mm, as the joint counts them.
type Driver struct {
	Joint    assembly.JointID
	From, To float64
}

// Mechanism is the joints of an assembly, made ready to be driven. It is read-only and may be shared; every reader brings
// a State of its own.
type Mechanism struct {
	// Bodies are the nodes that move as one with what is in them, parents before what they carry; the first is the root
	// of the assembly and stands still.
	Bodies []int
	// Drivers are the joints that are driven, in the order in which At takes their values.
	Drivers []Driver
	// Problems are what was left out, and why.
	Problems []Problem
	// Ends are the drivers that cannot be driven over all of their values.
	Ends []End

	assembly    *assembly.Assembly
	index       map[assembly.NodeID]int
	rest        []space.Rigid // by node: its pose in the world
	bodyOf      []int         // by node
	joints      []joint       // by joint
	coordinates []coordinate
	parents     []int        // by body: what it hangs on in the tree of joints, −1 for the frame
	ways        [][]link     // by body: from there to it
	order       []int        // bodies, what they hang on first
	drivers     []int        // by driver: its coordinate, −1 where it cannot be driven
	reach       [][2]float64 // by driver: how far it can go, from rest
	follows     []linear     // by coordinate
	cams        []cam
	cuts        []cut
	groups      []group
	size        float64 // mm, of the assembly
}

// joint is what has become of a joint.
type joint struct {
	*assembly.Joint
	base, body int // bodies
	first      int // of its coordinates, −1 where it is not in the tree
}

// Problem is something about a joint or coupling for which it has no effect.
type Problem struct {
	// Of is the joint or coupling, and Joint whether it is a joint.
	Of    assembly.JointID `json:"of"`
	Text  string           `json:"text"`
	Joint bool             `json:"joint"`
}

// New makes a mechanism of an assembly's joints. What is wrong with it is told in Problems; the rest goes on.
func New(a *assembly.Assembly, drivers []Driver) *Mechanism {
	m := &Mechanism{assembly: a, index: a.Index(), rest: a.Worlds(), Drivers: slices.Clone(drivers)}
	size := a.Bounds().Size()
	m.size = max(length(size), 1)
	m.findBodies()
	m.span()
	m.couple()
	for range drivers {
		m.reach = append(m.reach, [2]float64{math.Inf(-1), math.Inf(1)})
	}
	m.group()
	return m
}

// findBodies finds what moves as one.
func (m *Mechanism) findBodies() {
	a := m.assembly
	moves := make([]bool, len(a.Nodes))
	for i := range a.Joints {
		moves[m.index[a.Joints[i].Body]] = true
	}
	m.bodyOf = make([]int, len(a.Nodes))
	m.Bodies = []int{0}
	for i := range a.Nodes {
		switch {
		case i == 0:
		case moves[i]:
			m.bodyOf[i] = len(m.Bodies)
			m.Bodies = append(m.Bodies, i)
		default:
			m.bodyOf[i] = m.bodyOf[a.Nodes[i].Parent]
		}
	}
	for i := range a.Joints {
		j := &a.Joints[i]
		m.joints = append(m.joints, joint{
			Joint: j, base: m.bodyOf[m.index[j.Base]], body: m.bodyOf[m.index[j.Body]], first: -1,
		})
	}
}

// span hangs every body on others by joints, those first that are driven or coupled: what these do is then known without
// solving anything. Joints that are left over close loops.
func (m *Mechanism) span() {
	set := make([]int, len(m.Bodies)) // union-find
	for i := range set {
		set[i] = i
	}
	root := func(i int) int {
		for set[i] != i {
			i = set[i]
		}
		return i
	}
	neighbours := make([][]int, len(m.Bodies)) // joints
	in := make([]bool, len(m.joints))
	for _, i := range m.inOrder() {
		j := &m.joints[i]
		if j.base == j.body {
			m.problem(
				j.ID,
				true,
				"Both sides of %s are one body: nothing moves there. Put another part on one side.",
				j.says(),
			)
			continue
		}
		if a, b := root(j.base), root(j.body); a != b {
			set[a], in[i] = b, true
			neighbours[j.base] = append(neighbours[j.base], i)
			neighbours[j.body] = append(neighbours[j.body], i)
		}
	}
	m.parents, m.ways = make([]int, len(m.Bodies)), make([][]link, len(m.Bodies))
	for i := range m.parents {
		m.parents[i] = -1
	}
	m.order = []int{0}
	for at := 0; at < len(m.order); at++ {
		body := m.order[at]
		for _, i := range neighbours[body] {
			m.hang(body, i)
		}
	}
	held := func(body int) bool { return body == 0 || m.parents[body] >= 0 }
	for i := range m.joints {
		j := &m.joints[i]
		switch {
		case j.base == j.body:
		case !held(j.body):
			m.problem(
				j.ID,
				true,
				"Nothing holds %s: no chain of joints leads from it to what stands still.",
				m.name(j.body),
			)
		case !in[i]:
			m.cuts = append(m.cuts, m.newCut(i))
		}
	}
}

// inOrder lists the joints, those first that shall not close loops.
func (m *Mechanism) inOrder() []int {
	rank := make([]int, len(m.joints))
	at := map[assembly.JointID]int{}
	for i := range m.joints {
		at[m.joints[i].ID] = i
		if k := m.joints[i].Kind; k == assembly.Helical || k == assembly.Fixed {
			rank[i] = 1
		}
	}
	for i := range m.assembly.Couplings {
		c := &m.assembly.Couplings[i]
		rank[at[c.Joint]], rank[at[c.By]] = 2, 2
	}
	for _, d := range m.Drivers {
		if i, there := at[d.Joint]; there {
			rank[i] = 3
		}
	}
	order := make([]int, len(m.joints))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return rank[b] - rank[a] })
	return order
}

// hang hangs what is on the other side of a joint on a body.
func (m *Mechanism) hang(body, i int) {
	j := &m.joints[i]
	other, sign := j.body, 1.0
	if other == body {
		other, sign = j.base, -1
	}
	if other == 0 || m.parents[other] >= 0 {
		return
	}
	m.parents[other] = body
	m.order = append(m.order, other)
	j.first = len(m.coordinates)
	list := coordinatesOf(i, j.Joint, &m.rest[m.index[j.Body]])
	m.coordinates = append(m.coordinates, list...)
	for k := range list {
		m.ways[other] = append(m.ways[other], link{j.first + k, sign})
	}
	if sign < 0 {
		slices.Reverse(m.ways[other])
	}
}

// driven is the coordinate that a joint is known by, −1 where it has none.
func (j *joint) driven() int {
	if j.first < 0 || j.Kind == assembly.Fixed {
		return -1
	}
	return j.first + valueOf(j.Kind)
}

func (j *joint) says() string {
	if j.Name != "" {
		return fmt.Sprintf("“%s”", j.Name)
	}
	return "a joint without a name"
}

func (m *Mechanism) name(body int) string {
	return fmt.Sprintf("“%s”", m.assembly.Nodes[m.Bodies[body]].Name)
}

func (m *Mechanism) problem(of assembly.JointID, isJoint bool, text string, args ...any) {
	m.Problems = append(m.Problems, Problem{Of: of, Joint: isJoint, Text: fmt.Sprintf(text, args...)})
}
