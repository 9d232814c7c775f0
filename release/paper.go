package release

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"slowreveal/clientpage"
	"slowreveal/core/item"
	"slowreveal/core/reveal"
	"slowreveal/core/survey"
	"slowreveal/paper"
	"slowreveal/paper/manual"
	"slowreveal/paper/sheet"
)

// paperFormats are the formats of what is put on paper, the usual one first, with their MIME types.
var paperFormats = map[Kind][]string{
	Lines: {"svg", "pdf"},
	Sheet: {"pdf", "svg"},
	Parts: {"csv", "json"},
	// of HTML there is a folder, as a ZIP
	Manual: {"pdf", "html"},
	Page:   {"html", "folder"}, // the latter as a ZIP
}

var paperMedia = map[string]string{
	"svg":  "image/svg+xml",
	"pdf":  "application/pdf",
	"csv":  "text/csv; charset=utf-8",
	"json": "application/json",
	"html": "text/html; charset=utf-8",
	"zip":  "application/zip",
}

// fillPaper completes and checks the settings of outputs on paper.
func (s *Settings) fillPaper() error {
	switch s.Kind {
	case Lines:
		if s.Lines == nil {
			s.Lines = &paper.StillSettings{}
		}
		return s.Lines.Fill()
	case Sheet, Parts:
		if s.Sheet == nil {
			s.Sheet = &sheet.Settings{}
		}
		return s.Sheet.Fill()
	case Manual:
		if s.Manual == nil {
			s.Manual = &manual.Settings{}
		}
		return s.Manual.Fill()
	case Page:
		if s.Page == nil {
			s.Page = &clientpage.Settings{}
		}
		return s.Page.Fill()
	}
	return nil
}

// subject is what paper is made of, in the shape that is asked for.
func (w *Work) subject() *paper.Subject {
	aspect := float64(w.plan.Width) / float64(w.plan.Height)
	return paper.NewSubject(w.model, w.film.Shaped(aspect, w.Settings.Fill))
}

// onPaper makes an output on paper.
func (w *Work) onPaper(ctx context.Context) ([]byte, error) {
	fonts, err := paper.NewFonts(w.plan.Fonts...)
	if err != nil {
		return nil, err
	}
	switch w.Settings.Kind {
	case Lines:
		return w.lines(ctx, fonts)
	case Sheet:
		return w.sheet(ctx, fonts)
	case Manual:
		return w.manual(ctx, fonts)
	case Page:
		return w.page()
	}
	return w.parts()
}

// about is what a document says of itself.
func (w *Work) about(what string) paper.About {
	title := w.Settings.Name
	if title == "" {
		title = w.film.Reveal.Title
	}
	return paper.About{
		Title:    title,
		Subject:  what + " of " + w.model.Assembly.Name,
		Keywords: w.MadeOf(),
		Author:   w.Settings.Author,
		Language: "en",
	}
}

// lines draws the moments: SVG has one page a file, so that several make a ZIP.
func (w *Work) lines(ctx context.Context, fonts *paper.Fonts) ([]byte, error) {
	s := w.subject()
	var pages []*paper.Page
	var items []item.Item
	if w.Settings.Lines.References {
		items = w.items(item.Settings{})
	}
	for _, t := range w.at {
		page, err := s.Still(
			ctx,
			fonts,
			t,
			w.Settings.Eye,
			float64(w.plan.Width)/float64(w.plan.Height),
			*w.Settings.Lines,
			items,
		)
		if err != nil {
			return nil, err
		}
		pages = append(pages, page)
	}
	w.first = pages[0]
	if w.Settings.Format == "pdf" {
		return paper.PDF(pages, w.about("Line drawings"))
	}
	if len(pages) == 1 {
		return pages[0].SVG()
	}
	var files []paper.File
	for i, p := range pages {
		data, err := p.SVG()
		if err != nil {
			return nil, err
		}
		files = append(files, paper.File{Name: fmt.Sprintf("lines_%05d.svg", i+1), Data: data})
	}
	return packed(files)
}

// sheet draws the sheet. One without a date of issue says when it was made.
func (w *Work) sheet(ctx context.Context, fonts *paper.Fonts) ([]byte, error) {
	set := *w.Settings.Sheet
	out, err := w.drawSheet(ctx, fonts, set)
	if err != nil {
		return nil, err
	}
	w.first = out.Page
	pages := []*paper.Page{out.Page}
	if out.List != nil {
		pages = append(pages, out.List)
	}
	if w.Settings.Format == "svg" {
		if len(pages) > 1 {
			return nil, fmt.Errorf(
				"a sheet of the size %s has no room for views beside a parts list of %d items: choose a larger one, PDF, or leave the list out",
				set.Size,
				len(out.Items),
			)
		}
		return out.Page.SVG()
	}
	about := w.about("Drawing sheet")
	about.Language = set.Title.Language
	return paper.PDF(pages, about)
}

func (w *Work) drawSheet(ctx context.Context, fonts *paper.Fonts, set sheet.Settings) (*sheet.Sheet, error) {
	if set.Title.Date == "" {
		set.Title.Date = time.Now().Format(time.DateOnly)
	}
	return sheet.Draw(ctx, w.subject(), fonts, set, w.plan.Logo.Image())
}

// manual makes the step-by-step document. One without a date says when it was made.
func (w *Work) manual(ctx context.Context, fonts *paper.Fonts) ([]byte, error) {
	set := *w.Settings.Manual
	if set.Date == "" {
		set.Date = time.Now().Format(time.DateOnly)
	}
	content, err := manual.Collect(ctx, paper.NewSubject(w.model, w.film), set)
	if err != nil {
		return nil, err
	}
	if w.Settings.Format == "html" {
		return w.manualFolder(ctx, content, fonts)
	}
	pages, err := content.Draw(fonts)
	if err != nil {
		return nil, err
	}
	w.first = pages[0]
	about := w.about("Manual")
	about.Title, about.Language = content.Settings.Title, set.Language
	return paper.PDF(pages, about)
}

// manualFolder packs the manual's HTML, with a small film of each step where that is asked for.
func (w *Work) manualFolder(ctx context.Context, content *manual.Content, fonts *paper.Fonts) ([]byte, error) {
	var films []paper.File
	film := func(*manual.Step) string { return "" }
	if content.Settings.Films {
		folder, err := os.MkdirTemp("", "slowreveal-films-")
		if err != nil {
			return nil, fmt.Errorf("making the films of the steps: %w", err)
		}
		defer os.RemoveAll(folder)
		for i := range content.Steps {
			s := &content.Steps[i]
			name := fmt.Sprintf("films/step-%02d.mp4", s.Number)
			data, err := w.filmOf(ctx, s.ID, filepath.Join(folder, filepath.Base(name)))
			if err != nil {
				return nil, fmt.Errorf("the film of step %d, %s: %w", s.Number, s.Title, err)
			}
			films = append(films, paper.File{Name: name, Data: data})
		}
		film = func(s *manual.Step) string { return fmt.Sprintf("films/step-%02d.mp4", s.Number) }
	}
	files, err := content.HTML(fonts, film)
	if err != nil {
		return nil, err
	}
	return packed(append(files, films...))
}

// filmOf makes a small film of a step.
func (w *Work) filmOf(ctx context.Context, step reveal.StepID, path string) ([]byte, error) {
	s := Settings{Kind: Film, Steps: []reveal.StepID{step}, Height: 540, Captions: true, Boxes: true}
	s.Width = 2 * (540 * w.plan.Width / w.plan.Height / 2)
	f, err := Plan(s, w.model, w.doc, nil)
	if err != nil {
		return nil, err
	}
	f.plan.Fonts, f.plan.Threads, f.reels[0].Scene = w.plan.Fonts, w.plan.Threads, w.reels[0].Scene
	if err := f.Make(ctx, path, nil); err != nil {
		return nil, err
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("reading it: %w", err)
	}
	return data, nil
}

// packed is a ZIP of files; what is compressed already is only stored.
func packed(files []paper.File) ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		method := zip.Deflate
		if ext := filepath.Ext(f.Name); ext == ".mp4" || ext == ".woff" || ext == ".packed" {
			method = zip.Store
		}
		to, err := z.CreateHeader(&zip.FileHeader{Name: f.Name, Method: method, Modified: time.Now()})
		if err == nil {
			_, err = to.Write(f.Data)
		}
		if err != nil {
			return nil, fmt.Errorf("packing %s: %w", f.Name, err)
		}
	}
	if err := z.Close(); err != nil {
		return nil, fmt.Errorf("packing: %w", err)
	}
	return b.Bytes(), nil
}

// page makes the client page; all reveals on it are of one model.
func (w *Work) page() ([]byte, error) {
	var reveals []*reveal.Reveal
	for _, r := range w.reels {
		if r.model != w.model {
			return nil, fmt.Errorf(
				"the reveal %q is of another revision of the assembly: bring it to this one first",
				r.Film.Reveal.Title,
			)
		}
		reveals = append(reveals, r.doc)
	}
	if w.Settings.Format == "folder" {
		files, err := clientpage.Folder(w.model, reveals, *w.Settings.Page, w.logo)
		if err != nil {
			return nil, err
		}
		return packed(files)
	}
	return clientpage.Write(w.model, reveals, *w.Settings.Page, w.logo)
}

// items are those of a parts list.
func (w *Work) items(set item.Settings) []item.Item {
	return item.List(
		w.model.Assembly,
		survey.Shapes(w.model.Assembly, w.model.Shapes),
		sheet.Shown(w.film),
		set,
	)
}

// parts writes the parts list as a table.
func (w *Work) parts() ([]byte, error) {
	items := w.items(w.Settings.Sheet.List)
	if w.Settings.Format == "json" {
		data, err := json.MarshalIndent(items, "", "  ")
		if err != nil {
			return nil, fmt.Errorf("writing the parts list: %w", err)
		}
		return append(data, '\n'), nil
	}
	var b bytes.Buffer
	b.WriteString("\ufeff") // so that spreadsheets take it for UTF-8 (common practice)
	c := csv.NewWriter(&b)
	rows := [][]string{{"Item", "Quantity", "Name", "Reference", "Material, finish", "Mass, g", "Remark", "Parts"}}
	for i := range items {
		it := &items[i]
		mass := ""
		if it.Mass > 0 {
			mass = strconv.FormatFloat(it.Mass, 'f', 3, 64)
		}
		var ids []string
		for _, id := range it.Parts {
			ids = append(ids, string(id))
		}
		rows = append(
			rows,
			[]string{
				strconv.Itoa(it.Number),
				strconv.Itoa(it.Quantity),
				it.Name,
				it.Designation,
				it.Finish,
				mass,
				it.Remark,
				strings.Join(ids, " "),
			},
		)
	}
	for _, row := range rows {
		for i, cell := range row {
			row[i] = harmless(cell)
		}
	}
	if err := c.WriteAll(rows); err != nil {
		return nil, fmt.Errorf("writing the parts list: %w", err)
	}
	return b.Bytes(), nil
}

// harmless keeps spreadsheets from taking a name for a formula (OWASP, “CSV Injection”).
func harmless(cell string) string {
	if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		return "'" + cell
	}
	return cell
}

// paperWords are the words on paper that no film has: those for which a font is looked for.
func (w *Work) paperWords() string {
	var all strings.Builder
	for i := range w.model.Assembly.Nodes {
		all.WriteString(w.model.Assembly.Nodes[i].Name)
	}
	for _, f := range w.model.Assembly.Finishes {
		all.WriteString(f.Name)
	}
	if s := w.Settings.Sheet; s != nil {
		t := &s.Title
		for _, text := range []string{t.Owner, t.Number, t.Title, t.Supplement, t.Department, t.Reference, t.Creator, t.Approver, t.DocumentType, t.Status, t.Revision, t.Date} {
			all.WriteString(text)
		}
		for i := range s.Views {
			all.WriteString(s.Views[i].Title)
		}
		for _, text := range s.List.Remarks {
			all.WriteString(text)
		}
	}
	if m := w.Settings.Manual; m != nil {
		for _, text := range []string{m.Title, m.Subtitle, m.Number, m.Revision, m.Date, m.Owner, m.Intro, m.Closing} {
			all.WriteString(text)
		}
	}
	return all.String()
}
