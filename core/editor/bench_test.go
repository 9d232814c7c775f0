package editor_test

import (
	"encoding/json"
	"testing"

	"slowreveal/core/assembly"
	"slowreveal/core/editor"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// BenchmarkDragOf5000 is one movement of the pointer that drags a bar of a reveal
// with 5,000 cues.
func BenchmarkDragOf5000(b *testing.B) {
	a := demo.Stress(1000, 12).Assembly
	text, err := assembly.Pack(a)
	if err != nil {
		b.Fatal(err)
	}
	d := new(editor.Editor)
	if err := d.OpenAssembly(text); err != nil {
		b.Fatal(err)
	}
	if _, err := d.OpenReveal(reveal.Write(demo.LongReveal(a, 5000))); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		s, err := d.Preview([]byte(`{"op":"shiftCues","cueIds":["cue-77"],"by":33333}`))
		if err != nil {
			b.Fatal(err)
		}
		if _, err := json.Marshal(s); err != nil {
			b.Fatal(err)
		}
	}
}
