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
	"slices"

	"github.com/sourcegraph/conc/iter"

	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/survey"
	"slowreveal/paper"
	"slowreveal/paper/sheet"
	"slowreveal/web"
)

//go:embed page.html
var pageText string

//go:embed embed.html
var embedText string

var embed = template.Must(template.New("embed").Parse(embedText))

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
func Write(m *product.Model, reveals []*reveal.Reveal, set Settings, logo []byte) ([]byte, error) {
	c, err := gather(m, reveals, set, logo)
	if err != nil {
		return nil, err
	}
	return c.page(false)
}

// Folder is Write as the files of a folder for a web server, which fetches what is large when the page is opened, and in
// whose embed.html stands how the page is put into another one.
func Folder(m *product.Model, reveals []*reveal.Reveal, set Settings, logo []byte) ([]paper.File, error) {
	c, err := gather(m, reveals, set, logo)
	if err != nil {
		return nil, err
	}
	index, err := c.page(true)
	if err != nil {
		return nil, err
	}
	var around bytes.Buffer
	if err := embed.Execute(&around, c.told); err != nil {
		return nil, fmt.Errorf("writing how the page is embedded: %w", err)
	}
	return []paper.File{
		{Name: "index.html", Data: index},
		{Name: "client.css", Data: []byte(c.style)},
		{Name: "client.js", Data: c.script},
		{Name: "told.packed", Data: compressed(c.words)},
		{Name: "shapes.packed", Data: compressed(c.shapes)},
		{Name: "core.packed", Data: compressed(c.core)},
		{Name: "embed.html", Data: around.Bytes()},
	}, nil
}

// content is what a page is made of.
type content struct {
	told                        *told
	first                       *reveal.Reveal
	style, language             string
	words, shapes, core, script []byte
}

func gather(m *product.Model, reveals []*reveal.Reveal, set Settings, logo []byte) (*content, error) {
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
	for _, packed := range iter.Map(kept.model.Shapes, func(s **solid.Shape) []byte {
		if set.Simplify > 0 {
			return pack(nil, (*s).Simplified(set.Simplify))
		}
		return pack(nil, *s)
	}) {
		shapes = append(shapes, packed...)
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

// compose adds what is the program's.
func compose(t *told, first *reveal.Reveal, shapes []byte, set Settings) (*content, error) {
	c := &content{told: t, first: first, shapes: shapes, language: set.Language}
	var err error
	if c.script, err = fs.ReadFile(web.Dist, "dist/client/client.js"); err != nil {
		return nil, fmt.Errorf("the client page's script is not there: build the application again with “make build”")
	}
	style, err := fs.ReadFile(web.Dist, "dist/client/client.css")
	if err != nil {
		return nil, fmt.Errorf("the client page's style is not there: build the application again with “make build”")
	}
	// a core that only plays: it is smaller than the one of the application's page, and sooner there
	if c.core, err = fs.ReadFile(web.Dist, "dist/client/player.wasm"); err != nil {
		return nil, fmt.Errorf("the client page's core is not there: build the application again with “make build”")
	}
	if c.words, err = json.Marshal(t); err != nil {
		return nil, fmt.Errorf("writing the page: %w", err)
	}
	accent := set.Colour
	if accent == "" {
		accent = "#b5311b"
	}
	c.style = string(style) + ":root{--accent:" + accent + "}"
	return c, nil
}

// page is the page itself: with all in it, or for a folder in which the rest lies beside it.
func (c *content) page(folder bool) ([]byte, error) {
	with := map[string]any{"Told": c.told, "Steps": c.first.Steps, "Language": c.language, "Folder": folder}
	if !folder {
		// They are parts of the program, and a colour that was checked.
		with["Style"] = template.CSS(c.style) //nolint:gosec
		for name, data := range map[string][]byte{"Data": c.words, "Shapes": c.shapes, "Core": c.core, "Script": c.script} {
			with[name] = block(data)
		}
	}
	var b bytes.Buffer
	if err := page.Execute(&b, with); err != nil {
		return nil, fmt.Errorf("writing the page: %w", err)
	}
	return b.Bytes(), nil
}

// block is data as a block of the page, in base64: what is large is compressed, and unpacked by the browser.
func block(data []byte) template.HTML {
	return template.HTML(base64.StdEncoding.EncodeToString(compressed(data))) //nolint:gosec // letters and digits
}

// compressed is data in gzip (RFC 1952).
func compressed(data []byte) []byte {
	var b bytes.Buffer
	z, _ := gzip.NewWriterLevel(&b, gzip.BestCompression)
	_, _ = z.Write(data) // a buffer takes all
	_ = z.Close()
	return b.Bytes()
}
