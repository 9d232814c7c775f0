package gltf

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

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
func WriteFilm(ctx context.Context, m *formats.Model, f *film.Film) ([]byte, error) {
	w := newWriter(m)
	w.doc.Asset.Extras = map[string]any{"reveal": f.Reveal.Title, "steps": stepsOf(f)}
	if lost := Lost(f); lost != "" {
		w.doc.Asset.Extras.(map[string]any)["lost"] = lost
	}
	k := newKeys(m.Assembly, f)
	if err := k.sample(ctx); err != nil {
		return nil, err
	}
	animation := &gltf.Animation{Name: f.Reveal.Title}
	w.doc.Animations = append(w.doc.Animations, animation)
	a := &animator{writer: w, out: animation, keys: k}
	for _, part := range []func(){a.poses, a.camera, a.surfaces} {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		part()
	}
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

// Lost says in words what of a film a GLB does not hold, "" when it holds all.
func Lost(f *film.Film) string {
	names := []struct {
		kind      reveal.Kind
		one, more string
	}{{reveal.KindSurface, "surface", "surfaces"}, {reveal.KindNote, "note", "notes"}, {reveal.KindCard, "card", "cards"}}
	count, lines := map[reveal.Kind]int{}, 0
	for i := range f.Reveal.Steps {
		for k := range f.Reveal.Steps[i].Cues {
			c := &f.Reveal.Steps[i].Cues[k]
			count[c.Kind]++
			if c.Flow != nil {
				lines++
			}
		}
	}
	var list []string
	add := func(n int, one, more string) {
		switch {
		case n == 1:
			list = append(list, "1 "+one)
		case n > 1:
			list = append(list, fmt.Sprint(n, " ", more))
		}
	}
	for _, n := range names {
		add(count[n.kind], n.one, n.more)
	}
	add(lines, "cue's flow lines", "cues' flow lines")
	if len(list) == 0 {
		return ""
	}
	return "Not in the GLB, whose format has nothing for it: " + strings.Join(list, ", ") + "."
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
	known  map[string]int // samplers by all that is in them
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

// thinned leaves out keys between which a straight way is near enough to those that are left out. near says so of key k
// on the way from i to j, of which u is behind it.
func (a *animator) thinned(list []int, near func(i, j, k int, u float64) bool) []int {
	if len(list) < 3 {
		return list
	}
	fits := func(from, to int) bool {
		i, j := list[from], list[to]
		long := float64(a.keys.times[j] - a.keys.times[i])
		for k := i + 1; k < j; k++ {
			if !near(i, j, k, float64(a.keys.times[k]-a.keys.times[i])/long) {
				return false
			}
		}
		return true
	}
	out := list[:1:1]
	for from := 0; from < len(list)-1; {
		// As far as it fits, in leaps that become longer, and then shorter again.
		to, leap := from+1, 1
		for to+leap < len(list) && fits(from, to+leap) {
			to, leap = to+leap, 2*leap
		}
		for leap /= 2; leap > 0; leap /= 2 {
			if to+leap < len(list) && fits(from, to+leap) {
				to += leap
			}
		}
		out = append(out, list[to])
		from = to
	}
	return out
}

// sampler writes keys of some numbers each and returns the sampler's index. What moves alike has one.
func (a *animator) sampler(list []int, interpolation gltf.Interpolation, data any) int {
	times := make([]float32, len(list))
	for i, k := range list {
		times[i] = float32(float64(a.keys.times[k]) / float64(reveal.Second))
	}
	key := fmt.Sprint(list)
	if a.inputs == nil {
		a.inputs, a.known = map[string]int{}, map[string]int{}
	}
	all := fmt.Sprint(key, interpolation, data)
	if i, ok := a.known[all]; ok {
		return i
	}
	a.known[all] = len(a.out.Samplers)
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
		radians := thinError / max(a.keys.radius[i], 1)
		a.pose(i, func(m *moment) *assembly.Pose { return &m.local[i] }, func(*moment) (mm, rad float64) { return thinError, radians })
	}
}

// pose animates a node; how far it may be off says slack.
func (a *animator) pose(node int, of func(*moment) *assembly.Pose, slack func(*moment) (mm, rad float64)) {
	shown := a.keys.shown
	// Where they are is thinned apart from how they are turned.
	near := func(ofMove, ofTurn float64) func(i, j, k int, u float64) bool {
		return func(i, j, k int, u float64) bool {
			mm, rad := slack(&shown[k])
			return near(of(&shown[i]), of(&shown[j]), of(&shown[k]), u, mm*ofMove, rad*ofTurn)
		}
	}
	moves := a.picked(func(i, j int) bool { return of(&shown[i]).Move == of(&shown[j]).Move })
	if moves != nil {
		moves = a.thinned(moves, near(1, math.Inf(1)))
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
		turns = a.thinned(turns, near(math.Inf(1), 1))
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
	a.pose(len(doc.Nodes)-1, func(m *moment) *assembly.Pose { return &m.eye }, func(m *moment) (mm, rad float64) { return eyeThin * m.away, eyeThin })
	return at
}

// number animates what a path points at.
func (a *animator) number(path string, list []int, of func(*moment) float64) {
	list = a.thinned(list, func(i, j, k int, u float64) bool {
		from, to, is := of(&a.keys.shown[i]), of(&a.keys.shown[j]), of(&a.keys.shown[k])
		return math.Abs(from+(to-from)*u-is) <= lensError*is
	})
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
		a.surface(i, n)
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

// surface gives a part materials of its own. What fades is solid while it does not: as two
// meshes, of which one is there at a time, for a material cannot become opaque.
func (a *animator) surface(i int, n *assembly.Node) {
	doc, shown := a.writer.doc, a.keys.shown
	faded := slices.ContainsFunc(shown, func(m moment) bool { return m.opacity[i] < 1 })
	clear := slices.ContainsFunc(n.Finishes, func(f int) bool { return a.writer.model.Assembly.Finishes[f].Opacity < 1 })
	whole := func(k int) bool { return shown[k].opacity[i] == 1 && (k+1 == len(shown) || shown[k+1].opacity[i] == 1) }
	keys := a.picked(func(p, q int) bool { return whole(p) == whole(q) })
	if !faded || clear || keys == nil {
		doc.Nodes[i].Mesh = gltf.Index(a.dressed(i, n, faded))
		return
	}
	for _, fading := range [2]bool{false, true} {
		name := n.Name + ": solid"
		if fading {
			name = n.Name + ": fading"
		}
		child := &gltf.Node{Name: name, Mesh: gltf.Index(a.dressed(i, n, fading)), Rotation: gltf.DefaultRotation, Scale: gltf.DefaultScale, Matrix: gltf.DefaultMatrix}
		doc.Nodes = append(doc.Nodes, child)
		doc.Nodes[i].Children = append(doc.Nodes[i].Children, len(doc.Nodes)-1)
		out := make([][3]float32, len(keys))
		for j, k := range keys {
			if whole(k) != fading {
				out[j] = [3]float32{1, 1, 1}
			}
		}
		if out[0] == [3]float32{} {
			child.Scale = [3]float64{}
		}
		a.channel(len(doc.Nodes)-1, gltf.TRSScale, a.sampler(keys, gltf.InterpolationStep, out))
	}
	doc.Nodes[i].Mesh = nil
}

// dressed adds a part's mesh with materials of its own, and returns its index.
func (a *animator) dressed(i int, n *assembly.Node, blended bool) int {
	w, shown := a.writer, a.keys.shown
	mesh := *w.doc.Meshes[*w.doc.Nodes[i].Mesh]
	mesh.Name = n.Name
	mesh.Primitives = append([]*gltf.Primitive(nil), mesh.Primitives...)
	for k := range mesh.Primitives {
		finish := &w.model.Assembly.Finishes[n.Finishes[k]]
		look := func(m *moment) (c [4]float64) {
			tinted := m.tint[i].Over(finish.Colour)
			copy(c[:], tinted[:])
			if c[3] = finish.Opacity; blended {
				c[3] *= m.opacity[i]
			}
			return c
		}
		material := w.material(finish)
		if blended {
			material.AlphaMode = gltf.AlphaBlend
		}
		first := look(&shown[0])
		material.PBRMetallicRoughness.BaseColorFactor = &first
		w.doc.Materials = append(w.doc.Materials, material)
		primitive := *mesh.Primitives[k]
		primitive.Material = gltf.Index(len(w.doc.Materials) - 1)
		mesh.Primitives[k] = &primitive
		own := a.picked(func(p, q int) bool {
			return shown[p].tint[i] == shown[q].tint[i] && (!blended || shown[p].opacity[i] == shown[q].opacity[i])
		})
		if own == nil {
			continue
		}
		looks := make(map[int][4]float64, len(own))
		for k := own[0]; k <= own[len(own)-1]; k++ {
			looks[k] = look(&shown[k])
		}
		list := a.thinned(own, func(p, q, k int, u float64) bool {
			from, to, is := looks[p], looks[q], looks[k]
			for c := range is {
				if math.Abs(from[c]+(to[c]-from[c])*u-is[c]) > fadeError/2 {
					return false
				}
			}
			return true
		})
		out := make([][4]float32, len(list))
		for j, key := range list {
			for c, v := range look(&shown[key]) {
				out[j][c] = float32(v)
			}
		}
		a.pointer(fmt.Sprintf("/materials/%d/pbrMetallicRoughness/baseColorFactor", len(w.doc.Materials)-1), a.sampler(list, gltf.InterpolationLinear, out))
	}
	w.doc.Meshes = append(w.doc.Meshes, &mesh)
	return len(w.doc.Meshes) - 1
}
