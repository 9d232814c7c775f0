package gltf

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// WriteFilm returns the model as a GLB that moves as its film does: positions and turns of
// nodes and of a camera as animations of glTF 2.0, with as many keys as it takes for
// everything between them to be right within 0.01 mm; opacities by
// KHR_animation_pointer on materials of their own. Where a part is not seen at all its
// scale is 0 as well, so that viewers which do not know the extension leave it out.
func WriteFilm(m *formats.Model, f *film.Film) ([]byte, error) {
	w := newWriter(m)
	w.doc.Asset.Extras = map[string]any{"reveal": f.Reveal.Title}
	k := newKeys(m.Assembly, f)
	k.sample()
	animation := &gltf.Animation{Name: f.Reveal.Title}
	w.doc.Animations = append(w.doc.Animations, animation)
	a := &animator{writer: w, out: animation, keys: k}
	a.poses()
	a.camera()
	a.opacities()
	w.doc.Scenes[0].Name = f.Reveal.Title
	if len(animation.Channels) == 0 { // glTF has no empty animations
		w.doc.Animations = nil
	}
	data, err := w.bytes()
	if err != nil {
		return nil, err
	}
	return pointed(data)
}

// keys are the moments at which a film is sampled, and what it shows then.
type keys struct {
	film   *film.Film
	a      *assembly.Assembly
	frame  *film.Frame
	radius []float64 // by node: how far its parts reach from its origin, mm
	times  []reveal.Micros
	shown  []moment
}

// moment is a frame: poses as nodes have them relative to their parents, mm.
type moment struct {
	local   []assembly.Pose
	opacity []float64
	eye     assembly.Pose
	lens    float64
}

// The errors that are allowed between two keys: they add up along nested nodes.
const (
	nodeError = 0.002 // mm
	eyeError  = 1e-5  // of the distance to what is looked at
	lensError = 1e-4  // of the focal length
	fadeError = 1.0 / 512
	// finest is the least time between keys: what jumps, jumps in it.
	finest = reveal.Second / 2000
	widest = reveal.Second / 5
)

func newKeys(a *assembly.Assembly, f *film.Film) *keys {
	k := &keys{film: f, a: a, frame: f.NewFrame(), radius: make([]float64, len(a.Nodes))}
	boxes, worlds := a.BoundsOf(), a.Worlds()
	for i := range a.Nodes {
		for c := range 8 {
			if corner := boxes[i].Corner(c); !math.IsInf(corner.X, 0) {
				k.radius[i] = max(k.radius[i], r3.Norm(r3.Sub(corner, worlds[i].T)))
			}
		}
	}
	return k
}

// at returns what the film shows at t.
func (k *keys) at(t reveal.Micros) moment {
	k.film.At(t, k.frame)
	fr := k.frame
	m := moment{local: make([]assembly.Pose, len(k.a.Nodes)), opacity: append([]float64(nil), fr.Opacity...), eye: assembly.PoseOf(film.Eye(fr.Camera)), lens: fr.Camera.Lens}
	for i := range k.a.Nodes {
		world := fr.World[i]
		if p := k.a.Nodes[i].Parent; p >= 0 {
			above := fr.World[p].Inverse()
			world = above.Then(&fr.World[i])
		}
		m.local[i] = assembly.PoseOf(world)
	}
	return m
}

// sample finds the keys: between two of them everything runs straight enough.
func (k *keys) sample() {
	marks := map[reveal.Micros]bool{0: true, k.film.Duration(): true}
	for _, b := range k.film.Schedule.Bars {
		marks[b.Start], marks[b.Start+b.Length] = true, true
	}
	for t := reveal.Micros(0); t < k.film.Duration(); t += widest {
		marks[t] = true
	}
	var list []reveal.Micros
	for t := range marks {
		if t >= 0 && t <= k.film.Duration() {
			list = append(list, t)
		}
	}
	slices.Sort(list)
	k.times, k.shown = []reveal.Micros{list[0]}, []moment{k.at(list[0])}
	for _, t := range list[1:] {
		k.between(t, k.at(t))
	}
}

// between adds keys up to and with t.
func (k *keys) between(t reveal.Micros, then moment) {
	from, first := k.times[len(k.times)-1], k.shown[len(k.shown)-1]
	if t-from > finest && !k.straight(from, t, &first, &then) {
		middle := (from + t) / 2
		k.between(middle, k.at(middle))
		k.between(t, then)
		return
	}
	k.times, k.shown = append(k.times, t), append(k.shown, then)
}

func (k *keys) straight(from, to reveal.Micros, a, b *moment) bool {
	for _, u := range []float64{0.25, 0.5, 0.75} {
		m := k.at(from + reveal.Micros(u*float64(to-from)))
		u = math.Round(u*float64(to-from)) / float64(to-from)
		for i := range m.local {
			if !near(&a.local[i], &b.local[i], &m.local[i], u, nodeError, nodeError/max(k.radius[i], 1)) || math.Abs(a.opacity[i]+(b.opacity[i]-a.opacity[i])*u-m.opacity[i]) > fadeError {
				return false
			}
		}
		allowed := eyeError * k.frame.Camera.Distance
		if !near(&a.eye, &b.eye, &m.eye, u, allowed, eyeError) || math.Abs(a.lens+(b.lens-a.lens)*u-m.lens) > lensError*m.lens {
			return false
		}
	}
	return true
}

// near reports whether the pose between a and b at u is m.
func near(a, b, m *assembly.Pose, u, mm, rad float64) bool {
	for k := range 3 {
		if math.Abs(a.Move[k]+(b.Move[k]-a.Move[k])*u-m.Move[k]) > mm {
			return false
		}
	}
	q := space.Slerp(a.Turn, b.Turn, u)
	dot := 0.0
	for k := range 4 {
		dot += q[k] * m.Turn[k]
	}
	return 2*math.Sqrt(max(0, 1-dot*dot)) <= rad
}

// animator writes keys as channels.
type animator struct {
	writer *writer
	out    *gltf.Animation
	keys   *keys
	inputs map[string]int // accessors of times
}

// picked returns the keys at which a value is needed: where it does not stay what it is
// before and after. same compares two keys.
func (a *animator) picked(same func(i, j int) bool) []int {
	n := len(a.keys.times)
	list := []int{0}
	for i := 1; i < n; i++ {
		if i == n-1 || !same(i-1, i) || !same(i, i+1) {
			list = append(list, i)
		}
	}
	for i := range list {
		if !same(list[0], list[i]) {
			return list
		}
	}
	return nil // it never changes
}

// sampler writes keys of some numbers each and returns the sampler's index.
func (a *animator) sampler(list []int, interpolation gltf.Interpolation, data any) int {
	times := make([]float32, len(list))
	for i, k := range list {
		times[i] = float32(float64(a.keys.times[k]) / float64(reveal.Second))
	}
	key := fmt.Sprint(list)
	if a.inputs == nil {
		a.inputs = map[string]int{}
	}
	in, ok := a.inputs[key]
	if !ok {
		in = modeler.WriteAccessor(a.writer.doc, gltf.TargetNone, times)
		accessor := a.writer.doc.Accessors[in]
		accessor.Min, accessor.Max = []float64{float64(times[0])}, []float64{float64(times[len(times)-1])}
		a.inputs[key] = in
	}
	out := modeler.WriteAccessor(a.writer.doc, gltf.TargetNone, data)
	a.out.Samplers = append(a.out.Samplers, &gltf.AnimationSampler{Input: in, Output: out, Interpolation: interpolation})
	return len(a.out.Samplers) - 1
}

func (a *animator) channel(node int, path gltf.TRSProperty, sampler int) {
	a.out.Channels = append(a.out.Channels, &gltf.AnimationChannel{Sampler: sampler, Target: gltf.AnimationChannelTarget{Node: &node, Path: path}})
}

func (a *animator) poses() {
	for i := range a.keys.a.Nodes {
		a.pose(i, func(m *moment) *assembly.Pose { return &m.local[i] })
	}
}

// pose animates a node.
func (a *animator) pose(node int, of func(*moment) *assembly.Pose) {
	shown := a.keys.shown
	moves := a.picked(func(i, j int) bool { return of(&shown[i]).Move == of(&shown[j]).Move })
	if moves != nil {
		out := make([][3]float32, len(moves))
		for i, k := range moves {
			for c, v := range of(&shown[k]).Move {
				out[i][c] = float32(v / metre)
			}
		}
		a.channel(node, gltf.TRSTranslation, a.sampler(moves, gltf.InterpolationLinear, out))
	}
	turns := a.picked(func(i, j int) bool { return of(&shown[i]).Turn == of(&shown[j]).Turn })
	if turns != nil {
		out := make([][4]float32, len(turns))
		var last space.Quat
		for i, k := range turns {
			q := of(&shown[k]).Turn.Unit()
			if i > 0 && q[0]*last[0]+q[1]*last[1]+q[2]*last[2]+q[3]*last[3] < 0 {
				q = space.Quat{-q[0], -q[1], -q[2], -q[3]} // the same turn, and the short way between keys
			}
			for c := range 4 {
				out[i][c] = float32(q[c])
			}
			last = q
		}
		a.channel(node, gltf.TRSRotation, a.sampler(turns, gltf.InterpolationLinear, out))
	}
}

// camera adds the reveal's camera, its frame as the reveal has it.
func (a *animator) camera() {
	doc, first := a.writer.doc, &a.keys.shown[0]
	frame := a.keys.film.Reveal.Frame
	aspect := float64(frame.Width) / float64(frame.Height)
	yfov := func(lens float64) float64 {
		_, up := film.Field(lens, aspect)
		return 2 * math.Atan(up)
	}
	far := 100.0
	doc.Cameras = append(doc.Cameras, &gltf.Camera{Name: "Reveal", Perspective: &gltf.Perspective{AspectRatio: &aspect, Yfov: yfov(first.lens), Znear: 0.001, Zfar: &far}})
	node := &gltf.Node{Name: "Reveal's camera", Camera: gltf.Index(0), Rotation: first.eye.Turn.Unit(), Scale: gltf.DefaultScale, Matrix: gltf.DefaultMatrix}
	for k := range 3 {
		node.Translation[k] = first.eye.Move[k] / metre
	}
	doc.Nodes = append(doc.Nodes, node)
	doc.Scenes[0].Nodes = append(doc.Scenes[0].Nodes, len(doc.Nodes)-1)
	a.pose(len(doc.Nodes)-1, func(m *moment) *assembly.Pose { return &m.eye })
	shown := a.keys.shown
	if lenses := a.picked(func(i, j int) bool { return shown[i].lens == shown[j].lens }); lenses != nil {
		out := make([]float32, len(lenses))
		for i, k := range lenses {
			out[i] = float32(yfov(shown[k].lens))
		}
		a.pointer("/cameras/0/perspective/yfov", a.sampler(lenses, gltf.InterpolationLinear, out))
	}
}

const pointerExtension = "KHR_animation_pointer"

func (a *animator) pointer(path string, sampler int) {
	a.writer.uses(pointerExtension)
	a.out.Channels = append(a.out.Channels, &gltf.AnimationChannel{Sampler: sampler,
		Target: gltf.AnimationChannelTarget{Extensions: gltf.Extensions{pointerExtension: map[string]any{"pointer": path}}}})
}

// opacities gives parts that fade materials of their own.
func (a *animator) opacities() {
	shown := a.keys.shown
	for i := range a.keys.a.Nodes {
		n := &a.keys.a.Nodes[i]
		if !n.IsPart() {
			continue
		}
		fades := a.picked(func(p, q int) bool { return shown[p].opacity[i] == shown[q].opacity[i] })
		if fades == nil && shown[0].opacity[i] == 1 {
			continue
		}
		a.fade(i, n, fades)
		gone := a.picked(func(p, q int) bool { return (shown[p].opacity[i] == 0) == (shown[q].opacity[i] == 0) })
		if fades == nil && shown[0].opacity[i] == 0 {
			a.writer.doc.Nodes[i].Scale = [3]float64{}
		}
		if gone == nil {
			continue
		}
		out := make([][3]float32, len(gone))
		for j, k := range gone {
			if shown[k].opacity[i] > 0 || k+1 < len(shown) && shown[k+1].opacity[i] > 0 { // it is there as soon as it begins to come
				out[j] = [3]float32{1, 1, 1}
			}
		}
		a.channel(i, gltf.TRSScale, a.sampler(gone, gltf.InterpolationStep, out))
	}
}

func (a *animator) fade(i int, n *assembly.Node, fades []int) {
	w, shown := a.writer, a.keys.shown
	mesh := *w.doc.Meshes[*w.doc.Nodes[i].Mesh]
	mesh.Name = n.Name
	mesh.Primitives = append([]*gltf.Primitive(nil), mesh.Primitives...)
	for k := range mesh.Primitives {
		finish := &w.model.Assembly.Finishes[n.Finishes[k]]
		material := w.material(finish)
		material.AlphaMode = gltf.AlphaBlend
		colour := *material.PBRMetallicRoughness.BaseColorFactor
		colour[3] = finish.Opacity * shown[0].opacity[i]
		material.PBRMetallicRoughness.BaseColorFactor = &colour
		w.doc.Materials = append(w.doc.Materials, material)
		primitive := *mesh.Primitives[k]
		primitive.Material = gltf.Index(len(w.doc.Materials) - 1)
		mesh.Primitives[k] = &primitive
		if fades == nil {
			continue
		}
		out := make([][4]float32, len(fades))
		for j, key := range fades {
			out[j] = [4]float32{float32(colour[0]), float32(colour[1]), float32(colour[2]), float32(finish.Opacity * shown[key].opacity[i])}
		}
		a.pointer(fmt.Sprintf("/materials/%d/pbrMetallicRoughness/baseColorFactor", len(w.doc.Materials)-1), a.sampler(fades, gltf.InterpolationLinear, out))
	}
	w.doc.Meshes = append(w.doc.Meshes, &mesh)
	w.doc.Nodes[i].Mesh = gltf.Index(len(w.doc.Meshes) - 1)
}

// pointed gives the channels that point by the extension the path that it asks for; the
// library does not know it.
func pointed(glb []byte) ([]byte, error) {
	const header, head = 12, 8
	length := int(binary.LittleEndian.Uint32(glb[header:]))
	decoder := json.NewDecoder(bytes.NewReader(glb[header+head : header+head+length]))
	decoder.UseNumber()
	var doc map[string]any
	if err := decoder.Decode(&doc); err != nil {
		return nil, fmt.Errorf("completing the GLB: %w", err)
	}
	animations, _ := doc["animations"].([]any)
	for _, animation := range animations {
		for _, c := range animation.(map[string]any)["channels"].([]any) {
			target := c.(map[string]any)["target"].(map[string]any)
			if target["extensions"] != nil {
				target["path"] = "pointer"
			}
		}
	}
	text, err := json.Marshal(doc)
	if err != nil {
		return nil, fmt.Errorf("completing the GLB: %w", err)
	}
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	rest := glb[header+head+length:]
	out := make([]byte, 0, header+head+len(text)+len(rest))
	out = append(out, glb[:8]...)
	out = binary.LittleEndian.AppendUint32(out, uint32(header+head+len(text)+len(rest)))
	out = binary.LittleEndian.AppendUint32(out, uint32(len(text)))
	out = append(out, glb[header+4:header+head]...)
	return append(append(out, text...), rest...), nil
}
