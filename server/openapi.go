package server

import (
	"encoding/json"
	"path"
	"reflect"
	"strings"

	"github.com/invopop/jsonschema"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/quantity"
	"slowreveal/core/reveal"
	"slowreveal/core/survey"
	"slowreveal/store"
)

// Describe returns the OpenAPI 3.1 description of the API, made from the table
// of routes and the Go types that travel. It also describes what the core hands
// to the page.
func Describe() map[string]any {
	d := describer{schemas: map[string]any{}}
	paths := map[string]any{}
	for _, r := range (&Server{}).routes() {
		path := "/api" + r.path
		if paths[path] == nil {
			paths[path] = map[string]any{}
		}
		paths[path].(map[string]any)[strings.ToLower(r.method)] = d.operation(r)
	}
	for _, v := range []any{reveal.Reveal{}, edit.Command{}, assembly.Assembly{}, film.Schedule{}, film.View{}, look.Look{}, compose.Operation{}, product.Report{}, Problem{}, store.Event{}} {
		d.schema(v)
	}
	return map[string]any{
		"openapi": "3.1.0",
		"info": map[string]any{
			"title":       "Slow Reveal",
			"version":     "1",
			"description": "Projects, reveals and their outputs.",
		},
		"paths":      paths,
		"components": map[string]any{"schemas": d.schemas},
	}
}

type describer struct {
	schemas map[string]any
}

func (d *describer) operation(r route) map[string]any {
	op := map[string]any{"operationId": r.name, "summary": r.summary}
	var params []any
	for _, m := range braces.FindAllStringSubmatch(r.path, -1) {
		schema := map[string]any{"type": "string"}
		if m[1] != "hash" && m[1] != "step" {
			schema["format"] = "uuid"
		}
		params = append(params, map[string]any{"name": m[1], "in": "path", "required": true, "schema": schema})
	}
	for _, q := range r.queries {
		params = append(params, map[string]any{"name": q.name, "in": "query", "schema": q.schema})
	}
	if params != nil {
		op["parameters"] = params
	}
	if r.bodyType != "" {
		text := map[string]any{"type": "string"}
		var schema any = map[string]any{"type": "object", "properties": map[string]any{
			"files": map[string]any{
				"type":  "array",
				"items": map[string]any{"type": "string", "format": "binary"},
			}, "name": text, "unit": text, "up": text, "detail": text}, "required": []string{"files"}}
		if r.body != nil {
			schema = d.schema(r.body)
		}
		op["requestBody"] = map[string]any{
			"required": true,
			"content":  map[string]any{r.bodyType: map[string]any{"schema": schema}},
		}
	}
	reply := map[string]any{"description": "Done"}
	if r.replyType != "" {
		var schema any = map[string]any{"type": "string", "format": "binary"}
		if r.reply != nil {
			schema = d.schema(r.reply)
		}
		reply["content"] = map[string]any{r.replyType: map[string]any{"schema": schema}}
	}
	problem := map[string]any{
		"description": "What is wrong",
		"content":     map[string]any{jsonType: map[string]any{"schema": d.schema(Problem{})}},
	}
	op["responses"] = map[string]any{itoa(r.status): reply, "default": problem}
	return op
}

func itoa(n int) string { b, _ := json.Marshal(n); return string(b) }

// schema adds the schema of v's type to the components and returns a reference.
func (d *describer) schema(v any) map[string]any {
	t := reflect.TypeOf(v)
	if t.Kind() == reflect.Slice {
		return map[string]any{"type": "array", "items": d.schema(reflect.Zero(t.Elem()).Interface())}
	}
	s := Reflector().ReflectFromType(t)
	for name, def := range s.Definitions {
		text, _ := json.Marshal(def)
		var m map[string]any
		json.Unmarshal([]byte(strings.ReplaceAll(string(text), "#/$defs/", "#/components/schemas/")), &m)
		if known, ok := d.schemas[name]; ok && !reflect.DeepEqual(known, m) {
			panic("server: two types of the API are called " + name)
		}
		d.schemas[name] = m
	}
	return map[string]any{"$ref": "#/components/schemas/" + t.Name()}
}

// named is what a type is called in the API: that of an output's part carries the name of its package where other
// packages have one of its name.
func named(t reflect.Type) string {
	switch of := path.Base(t.PkgPath()); of {
	case "sheet", "manual", "clientpage", "item":
		if t.Name() == "Settings" || t.Name() == "View" {
			return strings.ToUpper(of[:1]) + of[1:] + t.Name()
		}
	}
	return t.Name()
}

// Reflector makes JSON Schemas from Go types: every field without omitempty is
// required, unknown ones are refused.
func Reflector() *jsonschema.Reflector {
	return &jsonschema.Reflector{Namer: named, Mapper: func(t reflect.Type) *jsonschema.Schema {
		if words := words(t); words != nil {
			s := &jsonschema.Schema{Type: "string"}
			for _, w := range words {
				s.Enum = append(s.Enum, w)
			}
			return s
		}
		switch t {
		case reflect.TypeFor[reveal.Easing]():
			return &jsonschema.Schema{OneOf: []*jsonschema.Schema{
				{Type: "string", Enum: []any{"linear", "smooth", "in", "out"}},
				{Type: "array", Items: &jsonschema.Schema{Type: "number"}, MinItems: four(), MaxItems: four()}}}
		case reflect.TypeFor[store.RawText](), reflect.TypeFor[json.RawMessage]():
			return &jsonschema.Schema{}
		}
		return nil
	}}
}

// words are what a text of a type can be, nil where it can be anything.
func words(t reflect.Type) []string {
	switch t {
	case reflect.TypeFor[reveal.Kind]():
		return text(reveal.Kinds...)
	case reflect.TypeFor[reveal.Axes]():
		return text(reveal.OwnAxes, reveal.ParentAxes, reveal.AssemblyAxes, reveal.ReferenceAxes)
	case reflect.TypeFor[reveal.Signal]():
		return text(reveal.Danger, reveal.Warning, reveal.Caution, reveal.NoticeWord)
	case reflect.TypeFor[proof.Level]():
		return text(proof.Fault, proof.Warning, proof.Hint)
	case reflect.TypeFor[reveal.Style]():
		return text(reveal.ShadedEdges, reveal.Shaded, reveal.EdgesOnly, reveal.SeeThrough)
	case reflect.TypeFor[reveal.FlowOf]():
		return text(reveal.FlowEach, reveal.FlowPart, reveal.FlowAll)
	case reflect.TypeFor[reveal.LineType]():
		return text(reveal.Dashed, reveal.Solid, reveal.Dotted)
	case reflect.TypeFor[reveal.Words]():
		return text(reveal.AllWords, reveal.TitleOnly, reveal.NoWords)
	case reflect.TypeFor[reveal.Place]():
		return text(reveal.LowerLeft, reveal.LowerMiddle, reveal.UpperLeft)
	case reflect.TypeFor[edit.Edge]():
		return text(edit.Start, edit.End)
	case reflect.TypeFor[compose.OperationKind]():
		return text(compose.Kinds()...)
	case reflect.TypeFor[quantity.Kind]():
		return text(quantity.Length, quantity.Angle, quantity.Time, quantity.Percent, quantity.Plain)
	case reflect.TypeFor[survey.Rule]():
		return text(survey.Like, survey.Fasteners, survey.Neighbours, survey.Inside)
	case reflect.TypeFor[plan.Fineness]():
		return text(plan.EachMove, plan.Usual, plan.Few)
	}
	return nil
}

func four() *uint64 { n := uint64(4); return &n }

func text[T ~string](words ...T) []string {
	out := make([]string, len(words))
	for i, w := range words {
		out[i] = string(w)
	}
	return out
}
