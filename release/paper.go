package release

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"time"

	"slowreveal/core/item"
	"slowreveal/core/survey"
	"slowreveal/paper"
	"slowreveal/paper/sheet"
)

// paperFormats are the formats of what is put on paper, the usual one first, with their MIME types.
var paperFormats = map[Kind][]string{
	Lines: {"svg", "pdf"},
	Sheet: {"pdf", "svg"},
	Parts: {"csv", "json"},
}

var paperMedia = map[string]string{"svg": "image/svg+xml", "pdf": "application/pdf", "csv": "text/csv; charset=utf-8", "json": "application/json", "zip": "application/zip"}

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
	}
	return w.parts()
}

// about is what a document says of itself.
func (w *Work) about(what string) paper.About {
	title := w.Settings.Name
	if title == "" {
		title = w.film.Reveal.Title
	}
	return paper.About{Title: title, Subject: what + " of " + w.model.Assembly.Name, Author: w.Settings.Author, Language: "en"}
}

// lines draws the moments: SVG has one page a file, so that several make a ZIP.
func (w *Work) lines(ctx context.Context, fonts *paper.Fonts) ([]byte, error) {
	s := w.subject()
	var pages []*paper.Page
	for _, t := range w.Settings.At {
		page, err := s.Still(ctx, fonts, t, w.Settings.Eye, float64(w.plan.Width)/float64(w.plan.Height), *w.Settings.Lines)
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
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i, p := range pages {
		data, err := p.SVG()
		if err != nil {
			return nil, err
		}
		f, err := z.CreateHeader(&zip.FileHeader{Name: fmt.Sprintf("lines_%05d.svg", i+1), Method: zip.Deflate, Modified: time.Now()})
		if err != nil {
			return nil, fmt.Errorf("packing the drawings: %w", err)
		}
		if _, err := f.Write(data); err != nil {
			return nil, fmt.Errorf("packing the drawings: %w", err)
		}
	}
	if err := z.Close(); err != nil {
		return nil, fmt.Errorf("packing the drawings: %w", err)
	}
	return b.Bytes(), nil
}

// sheet draws the sheet. One without a date of issue says when it was made.
func (w *Work) sheet(ctx context.Context, fonts *paper.Fonts) ([]byte, error) {
	set := *w.Settings.Sheet
	if set.Title.Date == "" {
		set.Title.Date = time.Now().Format(time.DateOnly)
	}
	out, err := sheet.Draw(ctx, w.subject(), fonts, set, w.plan.Logo.Image())
	if err != nil {
		return nil, err
	}
	w.first = out.Page
	if w.Settings.Format == "svg" {
		return out.Page.SVG()
	}
	about := w.about("Drawing sheet")
	about.Language = set.Title.Language
	return paper.PDF([]*paper.Page{out.Page}, about)
}

// items are those of the parts list.
func (w *Work) items() []item.Item {
	return item.List(w.model.Assembly, survey.Shapes(w.model.Assembly, w.model.Shapes), sheet.Shown(w.film), w.Settings.Sheet.List)
}

// parts writes the parts list as a table.
func (w *Work) parts() ([]byte, error) {
	items := w.items()
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
		rows = append(rows, []string{strconv.Itoa(it.Number), strconv.Itoa(it.Quantity), it.Name, it.Designation, it.Finish, mass, it.Remark, strings.Join(ids, " ")})
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
	return all.String()
}
