package paper

import (
	"errors"
	"reflect"

	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/harfbuzz"
	"github.com/tdewolff/canvas"
)

// errShaper says that the writer of PDF is not the one that mendShaper knows.
var errShaper = errors.New("the shaper of package canvas is not where it was: see whether it still needs mending")

// mendShaper gives the shaper of a font a face with its caches. Package canvas makes faces without them, which go-text
// fills with zeros since 0.3.1: all letters below U+0100 become glyph 0. What is private is only read; the face itself
// is exported.
func mendShaper(f *canvas.Font) error {
	shaper := reflect.ValueOf(f).Elem().FieldByName("shaper")
	if !shaper.IsValid() || shaper.Kind() != reflect.Struct {
		return errShaper
	}
	inner := shaper.FieldByName("font")
	if !inner.IsValid() || inner.Type() != reflect.TypeFor[*harfbuzz.Font]() {
		return errShaper
	}
	face := (*harfbuzz.Font)(inner.UnsafePointer()).Face()
	*face = *font.NewFace(face.Font)
	return nil
}
