package prove

import (
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/render"
	"slowreveal/render/lettering"
)

// eyes see the parts of a film and its words, for proof.Eyes.
type eyes struct {
	*render.Eyes
	aspect float64
	scene  *render.Scene
	styles map[reveal.Captions]*lettering.Captions
	// The picture that words are held against, made when there are some.
	renderer *render.Renderer
	view     *render.View
	picture  *render.Picture
}

// wordsHeight is how high the picture is in which words are read, pixels.
const wordsHeight = 720

func newEyes(scene *render.Scene, aspect float64) (*eyes, error) {
	own, err := render.NewEyes(scene, aspect)
	if err != nil {
		return nil, err
	}
	e := &eyes{Eyes: own, aspect: aspect, scene: scene, styles: map[reveal.Captions]*lettering.Captions{}}
	e.styles[reveal.UsualCaptions], err = lettering.NewCaptions(e.wordsWidth(), wordsHeight, reveal.UsualCaptions)
	return e, err
}

func (e *eyes) wordsWidth() int { return max(16, int(wordsHeight*e.aspect/2+0.5)*2) }

// lettering sets the words of a film.
func (e *eyes) lettering(f *film.Film) *lettering.Captions {
	style := f.Reveal.CaptionStyle()
	c := e.styles[style]
	if c == nil { // the fonts were there for the usual style, and no other needs more
		c, _ = lettering.NewCaptions(e.wordsWidth(), wordsHeight, style)
		e.styles[style] = c
	}
	return c
}

// said is what is said at a moment of a film.
func said(f *film.Film, t reveal.Micros) (lettering.Said, bool) {
	step, opacity := f.Caption(t)
	if step < 0 || opacity < 0.5 {
		return lettering.Said{}, false
	}
	return lettering.SaidOf(&f.Reveal.Steps[step]), true
}

// Covered is for proof.Eyes.
func (e *eyes) Covered(f *film.Film, fr *film.Frame) (list []film.Area) {
	if words, ok := said(f, fr.Time); ok {
		list = e.lettering(f).Places(words)
	}
	for i := range fr.Notes {
		if n := &fr.Notes[i]; n.Opacity > 0.5 {
			list = append(list, n.Plate(e.aspect))
		}
	}
	return list
}

// Contrast is for proof.Eyes. The picture is that of the film before its usual background.
func (e *eyes) Contrast(f *film.Film, fr *film.Frame) float64 {
	words, some := said(f, fr.Time)
	if !some && len(fr.Cards) == 0 {
		return 0
	}
	if e.renderer == nil {
		r, err := render.NewRenderer(e.scene, e.wordsWidth(), wordsHeight, 1)
		if err != nil {
			return 0
		}
		e.renderer, e.view, e.picture = r, e.scene.NewView(), render.NewPicture(e.wordsWidth(), wordsHeight)
	}
	e.view.Take(e.scene, fr, e.aspect)
	e.renderer.Draw(e.view, e.picture)
	return e.lettering(f).Contrast(e.picture, words, fr.Cards)
}
