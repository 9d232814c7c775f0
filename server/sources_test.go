package server_test

import (
	"bytes"
	"context"
	"image/jpeg"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	core "slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/encode"
	"slowreveal/release"
	"slowreveal/sequence"
	"slowreveal/store"
)

// An output is made of the model as it was when it was ordered, however late that is, and
// says when the model looks otherwise now. A name or a part set changes nothing.
func TestAnOutputIsMadeOfWhatItWasOrderedOf(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	reveal := s.teardown()
	r, err := s.store.Reveal(ctx, reveal)
	require.NoError(t, err)
	still := release.Settings{Kind: release.Stills, Width: 160, Height: 90, At: []core.Micros{20 * core.Second}}
	before := s.order(reveal, still)[0]
	require.NoError(
		t,
		s.authoring.Arrange(
			ctx,
			r.ProjectID,
			0,
			arrange.Edit{
				Do:     arrange.Wear,
				Nodes:  []assembly.NodeID{"housing/hood", "housing/base"},
				Finish: &arrange.Library[4],
			},
		),
	)
	after := s.order(reveal, still)[0]
	require.NoError(t, s.authoring.UndoArrange(ctx, r.ProjectID, 1))
	require.NoError(
		t,
		s.authoring.Arrange(
			ctx,
			r.ProjectID,
			2,
			arrange.Edit{Do: arrange.Rename, Node: "housing/hood", Name: "Hood, painted"},
		),
	)
	again := s.order(reveal, still)[0]
	s.work()
	file := func(o store.Output) []byte {
		s.finished(o.ID)
		code, data, _ := s.ask("GET", "/api/outputs/"+o.ID+"/file", nil)
		require.Equal(t, http.StatusOK, code)
		return data
	}
	first := file(before)
	assert.NotEqual(t, first, file(after), "the other finish is seen")
	assert.Equal(t, first, file(again))
	behind := func(o store.Output) string {
		o, err := s.authoring.Output(ctx, o.ID)
		require.NoError(t, err)
		return o.Behind
	}
	assert.Equal(t, []string{"", "model", ""}, []string{behind(before), behind(after), behind(again)})
	due := func() (list []bool) {
		all, err := s.authoring.Outputs(ctx, r.ProjectID)
		require.NoError(t, err)
		for _, o := range all {
			list = append(list, o.Due)
		}
		return list
	}
	assert.Equal(t, []bool{false, false, false}, due(), "the newest of the three is not behind")
	worn := arrange.Edit{Do: arrange.Wear, Nodes: []assembly.NodeID{"housing/hood"}, Finish: &arrange.Library[2]}
	require.NoError(t, s.authoring.Arrange(ctx, r.ProjectID, 3, worn))
	assert.Equal(t, []bool{true, false, false}, due(), "of outputs that are alike the newest is made again")
}

// A parts list says what parts are called: with another name it is behind, and a picture is not. Where what is tied to
// what has changed, both are: the film moves otherwise.
func TestAnOutputIsBehindWhereItSaysOrShowsAnother(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	reveal := s.teardown()
	r, err := s.store.Reveal(ctx, reveal)
	require.NoError(t, err)
	list := s.order(reveal, release.Settings{Kind: release.Parts, Format: "csv"})[0]
	still := s.order(reveal, release.Settings{Kind: release.Stills, Width: 64, Height: 36, At: []core.Micros{0}})[0]
	s.work()
	s.finished(list.ID)
	s.finished(still.ID)
	behind := func() (of []string) {
		for _, id := range []string{list.ID, still.ID} {
			o, err := s.authoring.Output(ctx, id)
			require.NoError(t, err)
			of = append(of, o.Behind)
		}
		return of
	}
	assert.Equal(t, []string{"", ""}, behind())
	rename := arrange.Edit{Do: arrange.Rename, Node: "housing/hood", Name: "Hood, painted"}
	require.NoError(t, s.authoring.Arrange(ctx, r.ProjectID, 0, rename))
	assert.Equal(t, []string{"model", ""}, behind(), "the list says its name")
	require.NoError(t, s.authoring.UndoArrange(ctx, r.ProjectID, 1))
	assert.Equal(t, []string{"", ""}, behind())
	joint := arrange.Edit{Do: arrange.SetJoints, Joints: []assembly.Joint{{
		ID: "hinge", Name: "Hinge", Kind: assembly.Revolute, Body: "pump-head/door", Base: assembly.Root,
		Axis: space.Vec3{0, 1, 0},
	}}}
	require.NoError(t, s.authoring.Arrange(ctx, r.ProjectID, 2, joint))
	assert.Equal(t, []string{"model", "model"}, behind(), "what is driven moves otherwise")
}

// What is otherwise in one variant puts the outputs of that variant behind, and no others.
func TestAnOutputIsBehindWhereItsOwnVariantIsAnother(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	reveal := s.teardown()
	r, err := s.store.Reveal(ctx, reveal)
	require.NoError(t, err)
	version := int64(0)
	arranged := func(e arrange.Edit) {
		require.NoError(t, s.authoring.Arrange(ctx, r.ProjectID, version, e))
		version++
	}
	green := assembly.NodeFinish{Nodes: []assembly.NodeID{"housing/hood"}, Finish: arrange.Library[4]}
	arranged(arrange.Edit{Do: arrange.SetVariants, Variants: []assembly.Variant{
		{ID: "a", Name: "Plain", Without: []assembly.NodeID{"housing/display"}},
		{ID: "b", Name: "Painted", Finishes: []assembly.NodeFinish{green}},
	}})
	still := release.Settings{Kind: release.Stills, Width: 160, Height: 90, At: []core.Micros{20 * core.Second}}
	var outputs []store.Output
	for _, v := range []string{"a", "b", "-"} {
		still.Variant = v
		outputs = append(outputs, s.order(reveal, still)...)
	}
	s.work()
	for _, o := range outputs {
		s.finished(o.ID)
	}
	behind := func() (list []string) {
		for _, o := range outputs {
			now, err := s.authoring.Output(ctx, o.ID)
			require.NoError(t, err)
			list = append(list, now.Behind)
		}
		return list
	}
	require.Equal(t, []string{"", "", ""}, behind())
	arranged(arrange.Edit{Do: arrange.SetVariants, Variants: []assembly.Variant{{ID: "c", Name: "Another"}}})
	assert.Equal(t, []string{"", "", ""}, behind(), "a further variant is none of theirs")
	green.Finish = arrange.Library[2]
	arranged(arrange.Edit{Do: arrange.SetVariants, Variants: []assembly.Variant{
		{ID: "b", Name: "Painted", Finishes: []assembly.NodeFinish{green}},
	}})
	assert.Equal(t, []string{"", "model", ""}, behind())
	arranged(arrange.Edit{
		Do: arrange.Wear, Nodes: []assembly.NodeID{"housing/display/display-glass"}, Finish: &arrange.Library[4],
	})
	assert.Equal(t, []string{"", "model", "model"}, behind(), "the first is without what has changed")
	arranged(arrange.Edit{Do: arrange.Wear, Nodes: []assembly.NodeID{"housing/base"}, Finish: &arrange.Library[4]})
	assert.Equal(t, []string{"model", "model", "model"}, behind())
}

// A joined film follows its reveals as they were, says when one has changed, and refuses
// one of another product. Beside it there are its words and a picture.
func TestAJoinedFilmByTheAPI(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	reveal := s.teardown()
	r, err := s.store.Reveal(ctx, reveal)
	require.NoError(t, err)
	doc, err := core.Parse([]byte(r.Document))
	require.NoError(t, err)
	other, err := s.authoring.CreateReveal(ctx, r.ProjectID, doc)
	require.NoError(t, err)
	s.work()
	film := release.Settings{
		Width:     64,
		Height:    36,
		Rate:      4,
		To:        3 * core.Second,
		Purpose:   encode.Draft,
		Card:      &sequence.TitleCard{Title: "DP-40", Duration: 2 * core.Second},
		CrossFade: core.Second / 2,
		Then:      []release.Then{{Reveal: other.ID, Reverse: true}},
	}
	o := s.order(reveal, film)[0]
	assert.Equal(t, 8+12+204-2*2, o.Frames)
	s.finished(o.ID)
	code, data, header := s.ask("GET", "/api/outputs/"+o.ID+"/picture", nil)
	require.Equal(t, http.StatusOK, code)
	assert.Equal(t, "image/jpeg", header.Get("Content-Type"))
	_, err = jpeg.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	code, data, _ = s.ask("GET", "/api/outputs/"+o.ID+"/captions", nil)
	require.Equal(t, http.StatusOK, code)
	assert.True(t, strings.HasPrefix(string(data), "WEBVTT"))
	assert.Contains(t, string(data), "00:01.500 -->", "the first step begins as the card fades")

	title := "Back together"
	_, err = s.authoring.Do(
		ctx,
		other.ID,
		authoring.On{Base: other.Version, Author: "Ines"},
		authoring.Edit{Command: edit.Command{Op: edit.SetTitle, Title: &title}},
	)
	require.NoError(t, err)
	o, err = s.authoring.Output(ctx, o.ID)
	require.NoError(t, err)
	assert.Equal(t, "joined", o.Behind)

	stranger := s.teardown()
	film.Then[0].Reveal = stranger
	for _, id := range []string{stranger, "not an id"} {
		film.Then[0].Reveal = id
		code, data, _ = s.ask(
			"POST",
			"/api/reveals/"+reveal+"/outputs",
			map[string]any{"outputs": []release.Settings{film}},
		)
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, string(data), "reveal 2 of the film is gone")
	}
}
