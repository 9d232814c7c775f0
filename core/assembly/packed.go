package assembly

import (
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"
)

// A packed assembly is what a page hands to the core: ten thousand nodes are read from it within some milliseconds,
// where WebAssembly takes half a second and more for their JSON. All numbers are little-endian. First come five of 32
// bits: how many nodes, shapes and finishes of nodes there are, and the bytes of the texts and of the head. Then, for
// each node, the 7 numbers of its pose (move, then turn); for each shape its corners and its heart, 9 numbers, the
// heart not a number where it has none; of 32 bits, for each node its parent, its shape, and how many finishes it has,
// and for each shape its triangles and patches; the finishes; the texts, each behind a zero byte but for the first:
// ids, names, hashes; and the head, the JSON of an assembly without nodes and shapes.
const packedHead = 5

var errPacked = errors.New("the packed assembly is cut off, or its texts are not as many as its nodes and shapes")

// Pack writes an assembly for Unpack. No id, name or hash may have a zero byte in it.
func Pack(a *Assembly) ([]byte, error) {
	head, err := json.Marshal(Assembly{
		Name: a.Name, Nodes: []Node{}, Shapes: []ShapeRef{}, Finishes: a.Finishes,
		Joints: a.Joints, Couplings: a.Couplings, Variants: a.Variants, Hazards: a.Hazards,
	})
	if err != nil {
		return nil, err
	}
	var poses, texts []byte
	var columns, finishes []byte
	number := func(list ...float64) {
		for _, v := range list {
			poses = binary.LittleEndian.AppendUint64(poses, math.Float64bits(v))
		}
	}
	whole := func(to []byte, v int) []byte { return binary.LittleEndian.AppendUint32(to, uint32(int32(v))) }
	var words []string
	for i := range a.Nodes {
		n := &a.Nodes[i]
		number(n.Pose.Move[:]...)
		number(n.Pose.Turn[:]...)
		columns = whole(whole(whole(columns, n.Parent), n.Shape), len(n.Finishes))
		for _, f := range n.Finishes {
			finishes = whole(finishes, f)
		}
		words = append(words, string(n.ID))
	}
	for i := range a.Nodes {
		words = append(words, a.Nodes[i].Name)
	}
	for i := range a.Shapes {
		s := &a.Shapes[i]
		number(s.Min[:]...)
		number(s.Max[:]...)
		if s.Heart != nil {
			number(s.Heart[:]...)
		} else {
			number(math.NaN(), math.NaN(), math.NaN())
		}
		columns = whole(whole(columns, s.Triangles), s.Submeshes)
		words = append(words, s.Hash)
	}
	texts = []byte(strings.Join(words, "\x00"))
	var out []byte
	for _, n := range [packedHead]int{len(a.Nodes), len(a.Shapes), len(finishes) / 4, len(texts), len(head)} {
		out = whole(out, n)
	}
	for _, part := range [][]byte{poses, columns, finishes, texts, head} {
		out = append(out, part...)
	}
	return out, nil
}

// Unpack reads what Pack has written. Whether it is an assembly is for Check.
func Unpack(data []byte) (*Assembly, error) {
	r := packed{data}
	var counts [packedHead]int
	if len(data) < 4*packedHead {
		return nil, errPacked
	}
	for i := range counts {
		counts[i] = r.whole()
	}
	nodes, shapes, finishes, texts, head := counts[0], counts[1], counts[2], counts[3], counts[4]
	for _, n := range counts {
		if n < 0 || n > len(data) {
			return nil, errPacked
		}
	}
	if len(r.left) != 68*nodes+80*shapes+4*finishes+texts+head {
		return nil, errPacked
	}
	a := &Assembly{}
	if err := json.Unmarshal(r.left[len(r.left)-head:], a); err != nil {
		return nil, fmt.Errorf("reading the assembly: %w", err)
	}
	a.Nodes, a.Shapes = make([]Node, nodes), make([]ShapeRef, shapes)
	for i := range a.Nodes {
		p := &a.Nodes[i].Pose
		r.numbers(p.Move[:])
		r.numbers(p.Turn[:])
	}
	for i := range a.Shapes {
		s := &a.Shapes[i]
		r.numbers(s.Min[:])
		r.numbers(s.Max[:])
		heart := s.Min
		if r.numbers(heart[:]); heart[0] == heart[0] { // a number
			s.Heart = &heart
		}
	}
	list := make([]int, finishes)
	each := make([]int, nodes)
	for i := range a.Nodes {
		a.Nodes[i].Parent, a.Nodes[i].Shape, each[i] = r.whole(), r.whole(), r.whole()
	}
	for i := range a.Shapes {
		a.Shapes[i].Triangles, a.Shapes[i].Submeshes = r.whole(), r.whole()
	}
	for i := range list {
		list[i] = r.whole()
	}
	for i, n := range each {
		if n < 0 || n > len(list) {
			return nil, errPacked
		}
		if n > 0 {
			a.Nodes[i].Finishes, list = list[:n:n], list[n:]
		}
	}
	return a, a.name(strings.Split(string(r.left[:texts]), "\x00"))
}

func (a *Assembly) name(words []string) error {
	nodes := len(a.Nodes)
	if len(words) != max(2*nodes+len(a.Shapes), 1) {
		return errPacked
	}
	for i := range a.Nodes {
		a.Nodes[i].ID, a.Nodes[i].Name = NodeID(words[i]), words[nodes+i]
	}
	for i := range a.Shapes {
		a.Shapes[i].Hash = words[2*nodes+i]
	}
	return nil
}

// packed is what is still to be read.
type packed struct{ left []byte }

func (p *packed) whole() int {
	v := int32(binary.LittleEndian.Uint32(p.left))
	p.left = p.left[4:]
	return int(v)
}

func (p *packed) numbers(to []float64) {
	for i := range to {
		to[i] = math.Float64frombits(binary.LittleEndian.Uint64(p.left[8*i:]))
	}
	p.left = p.left[8*len(to):]
}
