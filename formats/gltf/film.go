package gltf

import (
	"context"
	"fmt"
	"math"
	"strings"

	"github.com/qmuntal/gltf"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// WriteFilm returns the model as a GLB that moves as its film does: positions and turns of
// nodes and of a camera as animations of glTF 2.0, with as many keys as it takes for
// everything between them to be right within 0.01 mm; opacities and tints by
// KHR_animation_pointer on materials of their own. Where a part is not seen at all its
// scale is 0 as well, so that viewers which do not know the extension leave it out. The file's asset says in its extras
// what it was madeOf.
func WriteFilm(ctx context.Context, m *product.Model, f *film.Film, madeOf string) ([]byte, error) {
	w := newWriter(m)
	w.doc.Asset.Extras = map[string]any{"madeOf": madeOf, "reveal": f.Reveal.Title, "steps": stepsOf(f)}
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
		step := map[string]any{
			"title":  s.Title,
			"start":  float64(span.Start) / 1e6,
			"length": float64(span.Duration) / 1e6,
		}
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

func (a *animator) poses() {
	for i := range a.keys.a.Nodes {
		radians := thinError / max(a.keys.radius[i], 1)
		a.pose(
			i,
			func(m *moment) *assembly.Pose { return &m.local[i] },
			func(*moment) (mm, rad float64) { return thinError, radians },
		)
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
			q := of(&shown[k]).Turn.Normalized()
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
	at := a.eye(
		"Reveal",
		&gltf.Camera{
			Perspective: &gltf.Perspective{AspectRatio: &aspect, Yfov: yfov(shown[0].lens), Znear: 0.001, Zfar: &far},
		},
	)
	if lenses := a.picked(func(i, j int) bool { return shown[i].lens == shown[j].lens }); lenses != nil {
		a.number(
			fmt.Sprintf("/cameras/%d/perspective/yfov", at),
			lenses,
			func(m *moment) float64 { return yfov(m.lens) },
		)
	}
}

func (a *animator) orthographic() {
	shown, aspect := a.keys.shown, a.keys.aspect()
	high := func(m *moment) float64 { return m.high / metre }
	wide := func(m *moment) float64 { return m.high * aspect / metre }
	at := a.eye(
		"Reveal, parallel",
		&gltf.Camera{
			Orthographic: &gltf.Orthographic{
				Xmag:  wide(&shown[0]),
				Ymag:  high(&shown[0]),
				Znear: 0.001,
				Zfar:  farthest,
			},
		},
	)
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
	node := &gltf.Node{
		Name:     name + ": camera",
		Camera:   gltf.Index(at),
		Rotation: first.eye.Turn.Normalized(),
		Scale:    gltf.DefaultScale,
		Matrix:   gltf.DefaultMatrix,
	}
	for k := range 3 {
		node.Translation[k] = first.eye.Move[k] / metre
	}
	doc.Nodes = append(doc.Nodes, node)
	doc.Scenes[0].Nodes = append(doc.Scenes[0].Nodes, len(doc.Nodes)-1)
	a.pose(
		len(doc.Nodes)-1,
		func(m *moment) *assembly.Pose { return &m.eye },
		func(m *moment) (mm, rad float64) { return eyeThin * m.away, eyeThin },
	)
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
