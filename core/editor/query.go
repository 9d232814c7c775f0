package editor

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
)

// Query is one thing that a page can ask. Asking moves nothing that is on the stage.
type Query struct {
	Name string
	// In and Out are the types of what it is asked with and answered by; In is nil where it is asked with nothing.
	In, Out reflect.Type
	answer  func(d *Editor, in []byte) (any, error)
}

// nothing is what a query is asked with that needs nothing.
type nothing struct{}

// query makes a Query of a function.
func query[In, Out any](name string, answer func(d *Editor, in In) (Out, error)) Query {
	q := Query{Name: name, In: reflect.TypeFor[In](), Out: reflect.TypeFor[Out]()}
	if q.In == reflect.TypeFor[nothing]() {
		q.In = nil
	}
	q.answer = func(d *Editor, text []byte) (any, error) {
		var in In
		if len(text) > 0 {
			if err := json.Unmarshal(text, &in); err != nil {
				return nil, fmt.Errorf("the question %q is not understood: %w", name, err)
			}
		}
		out, err := answer(d, in)
		if v := reflect.ValueOf(&out).Elem(); v.Kind() == reflect.Slice && v.IsNil() {
			v.Set(reflect.MakeSlice(v.Type(), 0, 0)) // a page gets a list, not null
		}
		return out, err
	}
	return q
}

// ofAssembly is a query that needs an assembly, ofFilm one that needs a reveal.
func ofAssembly[In, Out any](name string, answer func(d *Editor, in In) (Out, error)) Query {
	return query(name, func(d *Editor, in In) (out Out, err error) {
		if d.assembly == nil {
			return out, errClosed
		}
		return answer(d, in)
	})
}

func ofFilm[In, Out any](name string, answer func(d *Editor, in In) (Out, error)) Query {
	return query(name, func(d *Editor, in In) (out Out, err error) {
		if d.film == nil {
			return out, errClosed
		}
		return answer(d, in)
	})
}

// constant is a query whose answer never changes.
func constant[Out any](name string, out Out) Query {
	return query(name, func(*Editor, nothing) (Out, error) { return out, nil })
}

// Ask answers a question {"ask": name, "with": …} by the table of queries.
func (d *Editor) Ask(question []byte) (any, error) {
	var q struct {
		Ask  string          `json:"ask"`
		With json.RawMessage `json:"with"`
	}
	strict := json.NewDecoder(bytes.NewReader(question))
	strict.DisallowUnknownFields() // who asks in an old way is told, not answered as if nothing had been said
	if err := strict.Decode(&q); err != nil {
		return nil, fmt.Errorf("the question is not understood: %w", err)
	}
	asked, ok := byName[q.Ask]
	if !ok {
		return nil, fmt.Errorf("the question %q is not known", q.Ask)
	}
	return asked.answer(d, q.With)
}

var byName = map[string]*Query{}

func init() {
	for i := range Queries {
		byName[Queries[i].Name] = &Queries[i]
	}
}
