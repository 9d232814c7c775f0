package edit_test

import (
	"encoding/json"
	"testing"

	"slowreveal/core/edit"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// Whatever comes as a command: it is refused and nothing has changed, or it can be taken back byte for
// byte, and the film of what it made can be seen.
func FuzzCommand(f *testing.F) {
	a := demo.Pump().Assembly
	base := demo.Teardown(a)
	base.Steps = base.Steps[:3]
	first := string(reveal.Write(base))
	h := edittest.New(9, a)
	for range 60 {
		text, err := json.Marshal(h.Command(base, 0))
		if err != nil {
			f.Fatal(err)
		}
		f.Add(text)
	}
	f.Add(
		[]byte(
			`{"op":"replace","reveal":{"format":"of another program","title":"x","frame":{"width":2,"height":2,"rate":1},"opening":{},"steps":null}}`,
		),
	)
	f.Fuzz(func(t *testing.T, text []byte) {
		c, err := edit.Parse(text)
		if err != nil {
			return
		}
		r, err := reveal.Parse([]byte(first))
		if err != nil {
			t.Fatal(err)
		}
		inverse, err := edit.Do(r, a, c)
		if err != nil {
			if string(reveal.Write(r)) != first {
				t.Fatalf("%s was refused and has changed something", text)
			}
			return
		}
		edit.Touches(c, inverse).Clashes(edit.Touches(inverse, c))
		// What was written is read again: nothing is stored that does not open any more.
		back, err := reveal.Parse(reveal.Write(r))
		if err != nil {
			t.Fatalf("%s makes a document that cannot be read: %v", text, err)
		}
		if err := reveal.Validate(back, a); err != nil {
			t.Fatalf("%s makes a document that is not valid when it is read again: %v", text, err)
		}
		fm := film.Compile(a, r)
		fm.At(fm.Duration()/2, fm.NewFrame())
		if _, err := edit.Do(r, a, inverse); err != nil {
			t.Fatalf("%s cannot be taken back: %v", text, err)
		}
		if string(reveal.Write(r)) != first {
			t.Fatalf("%s is not taken back to the byte", text)
		}
	})
}

// Whatever comes as a document: it is refused in words, or it is written and read as the same.
func FuzzDocument(f *testing.F) {
	a := demo.Pump().Assembly
	short := demo.Teardown(a)
	short.Steps = short.Steps[:2]
	f.Add(reveal.Write(short))
	f.Add(
		[]byte(
			`{"format":"slowreveal/reveal/2","title":"x","frame":{"width":2,"height":2,"rate":1},"opening":{"camera":{"target":[0,0,0],"orientation":[0,0,0,1],"distance":1,"focalLength":50}},"steps":[]}`,
		),
	)
	f.Fuzz(func(t *testing.T, data []byte) {
		r, err := reveal.Parse(data)
		if err != nil {
			return
		}
		text := reveal.Write(r)
		again, err := reveal.Parse(text)
		if err != nil {
			t.Fatalf("what was written is not read: %v", err)
		}
		if string(reveal.Write(again)) != string(text) {
			t.Fatal("it is another one when it is read again")
		}
		if reveal.Validate(r, a) == nil {
			fm := film.Compile(a, r)
			fm.At(fm.Duration()/3, fm.NewFrame())
		} else {
			reveal.Match(r, a)
		}
	})
}
