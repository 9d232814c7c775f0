package clientpage

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"html/template"
	"io/fs"
	"path"
	"slices"
	"strings"

	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/reveal"
	"slowreveal/core/survey"
	"slowreveal/formats"
	"slowreveal/paper"
	"slowreveal/paper/sheet"
	"slowreveal/web"
)

//go:embed page.html
var pageText string

var page = template.Must(template.New("client").Funcs(template.FuncMap{"plain": reveal.PlainProse}).Parse(pageText))

// told is what the page is told (web/src/client/data.ts).
type told struct {
	Title    string            `json:"title"`
	Subtitle string            `json:"subtitle"`
	Assembly json.RawMessage   `json:"assembly"`
	Reveals  []json.RawMessage `json:"reveals"`
	Items    []item.Item       `json:"items"`
	Fields   []string          `json:"fields"`
	Apart    []reveal.Micros   `json:"apart"`
	Until    string            `json:"until,omitempty"`
	Logo     string            `json:"logo,omitempty"`
}

// Write makes the page of a model and its reveals, the first one first. Settings must have been filled; logo is a
// picture's file, or nil. What all reveals suppress is not in the page.
func Write(m *formats.Model, reveals []*reveal.Reveal, set Settings, logo []byte) ([]byte, error) {
	facts := survey.Shapes(m.Assembly, m.Shapes)
	kept, err := leave(m, reveals)
	if err != nil {
		return nil, err
	}
	t := told{
		Title: set.Title, Subtitle: set.Subtitle, Reveals: kept.docs, Fields: set.Fields, Until: set.Until,
		Items: item.List(m.Assembly, facts, kept.nodes, set.List),
	}
	if t.Title == "" {
		t.Title = reveals[0].Title
	}
	if t.Subtitle == "" && t.Title != m.Assembly.Name {
		t.Subtitle = m.Assembly.Name
	}
	if t.Assembly, err = json.Marshal(kept.model.Assembly); err != nil {
		return nil, fmt.Errorf("writing the assembly: %w", err)
	}
	for i := range t.Items {
		t.Items[i].Remark = only(set.Fields, "remark", t.Items[i].Remark)
		t.Items[i].Finish = only(set.Fields, "finish", t.Items[i].Finish)
		t.Items[i].Designation = only(set.Fields, "designation", t.Items[i].Designation)
		if !slices.Contains(set.Fields, "mass") {
			t.Items[i].Mass = 0
		}
	}
	for _, r := range reveals {
		moments, err := sheet.Fullest(paper.NewSubject(m, film.Compile(m.Assembly, r)), t.Items)
		if err != nil {
			return nil, err
		}
		t.Apart = append(t.Apart, moments[0])
	}
	if logo != nil {
		t.Logo = "data:" + kindOf(logo) + ";base64," + base64.StdEncoding.EncodeToString(logo)
	}
	var shapes []byte
	for _, s := range kept.model.Shapes {
		shapes = pack(shapes, s)
	}
	return compose(&t, reveals[0], shapes, set)
}

func only(fields []string, name, text string) string {
	if slices.Contains(fields, name) {
		return text
	}
	return ""
}

// kindOf is the MIME type of a picture: those that are taken are PNG and JPEG.
func kindOf(picture []byte) string {
	if bytes.HasPrefix(picture, []byte("\x89PNG")) {
		return "image/png"
	}
	return "image/jpeg"
}

// compose puts the page together: what is large is compressed, and unpacked by the browser.
func compose(t *told, first *reveal.Reveal, shapes []byte, set Settings) ([]byte, error) {
	script, err := fs.ReadFile(web.Dist, "dist/client/client.js")
	if err != nil {
		return nil, fmt.Errorf("the client page's script is not there: build the application again with “make build”")
	}
	style, err := fs.ReadFile(web.Dist, "dist/client/client.css")
	if err != nil {
		return nil, fmt.Errorf("the client page's style is not there: build the application again with “make build”")
	}
	core, err := module()
	if err != nil {
		return nil, err
	}
	words, err := json.Marshal(t)
	if err != nil {
		return nil, fmt.Errorf("writing the page: %w", err)
	}
	accent := set.Colour
	if accent == "" {
		accent = "#b5311b"
	}
	var b bytes.Buffer
	err = page.Execute(&b, map[string]any{
		"Told": t, "Steps": first.Steps, "Language": set.Language,
		// They are parts of the program, and a colour that was checked.
		"Style": template.CSS(string(style) + ":root{--accent:" + accent + "}"), //nolint:gosec
		"Data":  block(words), "Shapes": block(shapes), "Core": block(core), "Script": block(script),
	})
	if err != nil {
		return nil, fmt.Errorf("writing the page: %w", err)
	}
	return b.Bytes(), nil
}

// block is data as a block of the page: gzip (RFC 1952) in base64.
func block(data []byte) template.HTML {
	var b bytes.Buffer
	z, _ := gzip.NewWriterLevel(&b, gzip.BestCompression)
	_, _ = z.Write(data) // a buffer takes all
	_ = z.Close()
	return template.HTML(base64.StdEncoding.EncodeToString(b.Bytes())) //nolint:gosec // letters and digits
}

// module is the core as the page of the application has it.
func module() ([]byte, error) {
	list, err := fs.ReadDir(web.Dist, "dist/assets")
	if err != nil {
		return nil, fmt.Errorf("the core is not there: build the application again with “make build”")
	}
	for _, f := range list {
		if strings.HasPrefix(f.Name(), "core") && path.Ext(f.Name()) == ".wasm" {
			return fs.ReadFile(web.Dist, "dist/assets/"+f.Name())
		}
	}
	return nil, fmt.Errorf("the core is not there: build the application again with “make build”")
}
