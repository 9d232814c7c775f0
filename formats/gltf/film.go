package gltf

import (
	"fmt"
	"math"
	"slices"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// WriteFilm returns the model as a GLB that moves as its film does: positions and turns of
// nodes and of a camera as animations of glTF 2.0, with as many keys as it takes for
// everything between them to be right within 0.01 mm; opacities and tints by
// KHR_animation_pointer on materials of their own. Where a part is not seen at all its
// scale is 0 as well, so that viewers which do not know the extension leave it out.
func WriteFilm(m *formats.Model, f *film.Film) ([]byte, error) {
	w := newWriter(m)
	w.doc.Asset.Extras = map[string]any{"reveal": f.Reveal.Title, "steps": stepsOf(f)}
	k := newKeys(m.Assembly, f)
	k.sample()
	animation := &gltf.Animation{Name: f.Reveal.Title}
	w.doc.Animations = append(w.doc.Animations, animation)
	a := &animator{writer: w, out: animation, keys: k}
	a.poses()
	a.camera()
	a.surfaces()
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

// stepsOf is what the steps say, with their times in seconds, for whoever shows the file.
func stepsOf(f *film.Film) []map[string]any {
	list := []map[string]any{}
	for i := range f.Reveal.Steps {
		s, span := &f.Reveal.Steps[i], f.Schedule.Steps[i]
		if s.Muted {
			continue
		}
		step := map[string]any{"title": s.Title, "start": float64(span.Start) / 1e6, "length": float64(span.Length) / 1e6}
		if s.Instruction != "" {
			step["instruction"] = reveal.PlainProse(s.Instruction)
		}
		if s.Notice != nil {
			step["notice"] = map[string]any{"signal": s.Notice.Signal, "text": s.Notice.Text}
		}
		if len(s.Tools) > 0 {
			step["tools"] = s.Tools
		}
		list = append(list, step)
	}
	return list
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

// camera adds the reveal's camera, its frame as the reveal has it: one with a vanishing
// point, and one with parallel lines of sight where the reveal has those. They cannot take
// turns in a glTF file: where both are needed, both go along all of the way.
func (a *animator) camera() {
	parallel, all := false, true
	for i := range a.keys.shown {
		parallel, all = parallel || a.keys.shown[i].parallel, all && a.keys.shown[i].parallel
	}
	if !all {
		a.perspective()
	}
	if parallel {
		a.orthographic()
	}
}

const farthest = 100.0 // m, that cameras see

func (a *animator) perspective() {
	shown, aspect := a.keys.shown, a.keys.aspect()
	yfov := func(lens float64) float64 {
		_, up := film.Field(lens, aspect)
		return 2 * math.Atan(up)
	}
	far := farthest
	at := a.eye("Reveal", &gltf.Camera{Perspective: &gltf.Perspective{AspectRatio: &aspect, Yfov: yfov(shown[0].lens), Znear: 0.001, Zfar: &far}})
	if lenses := a.picked(func(i, j int) bool { return shown[i].lens == shown[j].lens }); lenses != nil {
		a.number(fmt.Sprintf("/cameras/%d/perspective/yfov", at), lenses, func(m *moment) float64 { return yfov(m.lens) })
	}
}

func (a *animator) orthographic() {
	shown, aspect := a.keys.shown, a.keys.aspect()
	high := func(m *moment) float64 { return m.high / metre }
	wide := func(m *moment) float64 { return m.high * aspect / metre }
	at := a.eye("Reveal, parallel", &gltf.Camera{Orthographic: &gltf.Orthographic{Xmag: wide(&shown[0]), Ymag: high(&shown[0]), Znear: 0.001, Zfar: farthest}})
	if sizes := a.picked(func(i, j int) bool { return shown[i].high == shown[j].high }); sizes != nil {
		a.number(fmt.Sprintf("/cameras/%d/orthographic/ymag", at), sizes, high)
		a.number(fmt.Sprintf("/cameras/%d/orthographic/xmag", at), sizes, wide)
	}
}

// eye adds a camera that goes where the reveal's goes, and returns its number.
func (a *animator) eye(name string, c *gltf.Camera) int {
	doc, first := a.writer.doc, &a.keys.shown[0]
	c.Name = name
	doc.Cameras = append(doc.Cameras, c)
	at := len(doc.Cameras) - 1
	node := &gltf.Node{Name: name + ": camera", Camera: gltf.Index(at), Rotation: first.eye.Turn.Unit(), Scale: gltf.DefaultScale, Matrix: gltf.DefaultMatrix}
	for k := range 3 {
		node.Translation[k] = first.eye.Move[k] / metre
	}
	doc.Nodes = append(doc.Nodes, node)
	doc.Scenes[0].Nodes = append(doc.Scenes[0].Nodes, len(doc.Nodes)-1)
	a.pose(len(doc.Nodes)-1, func(m *moment) *assembly.Pose { return &m.eye })
	return at
}

// number animates what a path points at.
func (a *animator) number(path string, list []int, of func(*moment) float64) {
	out := make([]float32, len(list))
	for i, k := range list {
		out[i] = float32(of(&a.keys.shown[k]))
	}
	a.pointer(path, a.sampler(list, gltf.InterpolationLinear, out))
}

// surfaces gives parts that fade or are tinted materials of their own.
func (a *animator) surfaces() {
	shown := a.keys.shown
	for i := range a.keys.a.Nodes {
		n := &a.keys.a.Nodes[i]
		if !n.IsPart() {
			continue
		}
		same := func(p, q int) bool {
			return shown[p].opacity[i] == shown[q].opacity[i] && shown[p].tint[i] == shown[q].tint[i]
		}
		changes := a.picked(same)
		if changes == nil && shown[0].opacity[i] == 1 && shown[0].tint[i].Amount == 0 {
			continue
		}
		a.surface(i, n, changes)
		a.gone(i)
	}
}

// gone leaves a part out where it is not seen at all.
func (a *animator) gone(i int) {
	shown := a.keys.shown
	gone := a.picked(func(p, q int) bool { return (shown[p].opacity[i] == 0) == (shown[q].opacity[i] == 0) })
	if gone == nil {
		if shown[0].opacity[i] == 0 {
			a.writer.doc.Nodes[i].Scale = [3]float64{}
		}
		return
	}
	out := make([][3]float32, len(gone))
	for j, k := range gone {
		if shown[k].opacity[i] > 0 || k+1 < len(shown) && shown[k+1].opacity[i] > 0 { // it is there as soon as it begins to come
			out[j] = [3]float32{1, 1, 1}
		}
	}
	a.channel(i, gltf.TRSScale, a.sampler(gone, gltf.InterpolationStep, out))
}

// surface gives a part materials of its own, which change at some keys.
func (a *animator) surface(i int, n *assembly.Node, changes []int) {
	w, shown := a.writer, a.keys.shown
	faded := slices.ContainsFunc(shown, func(m moment) bool { return m.opacity[i] < 1 })
	mesh := *w.doc.Meshes[*w.doc.Nodes[i].Mesh]
	mesh.Name = n.Name
	mesh.Primitives = append([]*gltf.Primitive(nil), mesh.Primitives...)
	for k := range mesh.Primitives {
		finish := &w.model.Assembly.Finishes[n.Finishes[k]]
		look := func(m *moment) (c [4]float64) {
			tinted := m.tint[i].Over(finish.Colour)
			copy(c[:], tinted[:])
			c[3] = finish.Opacity * m.opacity[i]
			return c
		}
		material := w.material(finish)
		if faded {
			material.AlphaMode = gltf.AlphaBlend
		}
		first := look(&shown[0])
		material.PBRMetallicRoughness.BaseColorFactor = &first
		w.doc.Materials = append(w.doc.Materials, material)
		primitive := *mesh.Primitives[k]
		primitive.Material = gltf.Index(len(w.doc.Materials) - 1)
		mesh.Primitives[k] = &primitive
		if changes == nil {
			continue
		}
		out := make([][4]float32, len(changes))
		for j, key := range changes {
			for c, v := range look(&shown[key]) {
				out[j][c] = float32(v)
			}
		}
		a.pointer(fmt.Sprintf("/materials/%d/pbrMetallicRoughness/baseColorFactor", len(w.doc.Materials)-1), a.sampler(changes, gltf.InterpolationLinear, out))
	}
	w.doc.Meshes = append(w.doc.Meshes, &mesh)
	w.doc.Nodes[i].Mesh = gltf.Index(len(w.doc.Meshes) - 1)
}
