package server

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"slowreveal/core/editor"
	"slowreveal/core/reveal"
)

// TypeScript describes what the page can ask of the core in the browser, and what it is answered, from the types in
// core/editor. What travels in the API, too, is taken from there.
func TypeScript() string {
	w := typeWriter{
		api:   Describe()["components"].(map[string]any)["schemas"].(map[string]any),
		names: map[string]reflect.Type{},
	}
	var table strings.Builder
	for _, q := range editor.Queries {
		in := "null"
		if q.In != nil {
			in = w.of(q.In)
		}
		fmt.Fprintf(&table, "  %s: { with: %s; answer: %s }\n", q.Name, in, orNull(q.Out, w.of(q.Out)))
	}
	w.of(reflect.TypeFor[editor.State]())
	layout, _ := json.MarshalIndent(editor.Layout, "", "  ")
	var out strings.Builder
	out.WriteString("// Made by “make generate” from the types of core/editor.\n")
	out.WriteString("import type { Schemas } from '../api/client'\n\nexport type Vec3 = [number, number, number]\n\n")
	out.WriteString("/** What can be asked, with what, and what the answer is. */\nexport interface Queries {\n")
	out.WriteString(table.String())
	out.WriteString("}\n\n/** How the numbers lie in the module's memory. */\nexport const layout = ")
	out.Write(layout)
	out.WriteString(" as const\n")
	slices.SortFunc(w.written, func(a, b [2]string) int { return strings.Compare(a[0], b[0]) })
	for _, t := range w.written {
		out.WriteString("\n" + t[1])
	}
	return out.String()
}

// typeWriter writes Go types as TypeScript.
type typeWriter struct {
	api     map[string]any // the API's schemas by name
	names   map[string]reflect.Type
	written [][2]string // names and declarations
}

// orNull adds null where a value may be absent. Lists are never: what the core answers has empty ones.
func orNull(t reflect.Type, text string) string {
	if t.Kind() == reflect.Pointer {
		return text + " | null"
	}
	return text
}

// of returns the TypeScript of a type, and declares it where it has a name.
func (w *typeWriter) of(t reflect.Type) string {
	if words := words(t); words != nil {
		return "'" + strings.Join(words, "' | '") + "'"
	}
	if t == reflect.TypeFor[reveal.Easing]() {
		return "Schemas['Cue']['easing']"
	}
	switch t.Kind() {
	case reflect.Pointer:
		return w.of(t.Elem())
	case reflect.Bool:
		return "boolean"
	case reflect.String:
		return "string"
	case reflect.Slice:
		if t.Elem().Kind() == reflect.Uint8 {
			return "string" // base64
		}
		return w.list(t.Elem())
	case reflect.Array:
		if t.Len() == 3 && t.Elem().Kind() == reflect.Float64 {
			return "Vec3"
		}
		return "[" + strings.TrimSuffix(strings.Repeat(w.of(t.Elem())+", ", t.Len()), ", ") + "]"
	case reflect.Map:
		return "Record<" + w.of(t.Key()) + ", " + w.of(t.Elem()) + ">"
	case reflect.Struct:
		return w.object(t)
	case reflect.Func, reflect.Chan, reflect.Interface:
		panic("server: the page cannot get a " + t.String())
	}
	return "number"
}

func (w *typeWriter) list(of reflect.Type) string {
	text := w.of(of)
	if strings.ContainsAny(text, "|") {
		text = "(" + text + ")"
	}
	return text + "[]"
}

func (w *typeWriter) object(t reflect.Type) string {
	if w.inAPI(t) {
		return "Schemas['" + t.Name() + "']"
	}
	name := t.Name()
	if known, ok := w.names[name]; ok && known != t {
		panic("server: two types of the core are called " + name)
	} else if ok {
		return name
	}
	w.names[name] = t
	var b strings.Builder
	fmt.Fprintf(&b, "export interface %s {\n", name)
	w.fields(&b, t)
	b.WriteString("}\n")
	w.written = append(w.written, [2]string{name, b.String()})
	return name
}

func (w *typeWriter) fields(b *strings.Builder, t reflect.Type) {
	for i := range t.NumField() {
		f := t.Field(i)
		tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.Anonymous && tag == "" {
			w.fields(b, f.Type)
			continue
		}
		if !f.IsExported() || tag == "-" {
			continue
		}
		if strings.Contains(options, "omit") {
			fmt.Fprintf(b, "  %s?: %s\n", tag, w.of(f.Type))
			continue
		}
		fmt.Fprintf(b, "  %s: %s\n", tag, orNull(f.Type, w.of(f.Type)))
	}
}

// inAPI reports whether the API has the same type under the same name.
func (w *typeWriter) inAPI(t reflect.Type) bool {
	known, ok := w.api[t.Name()]
	if !ok {
		return false
	}
	d := describer{schemas: map[string]any{}}
	d.schema(reflect.Zero(t).Interface())
	return reflect.DeepEqual(known, d.schemas[t.Name()])
}
