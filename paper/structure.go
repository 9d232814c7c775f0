package paper

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf16"

	"github.com/tdewolff/canvas"
)

// Role is what a thing is in the structure of a document (ISO 32000-1, 14.8.4).
type Role string

// The roles.
const (
	Heading1  Role = "H1"
	Heading2  Role = "H2"
	Paragraph Role = "P"
	Entry     Role = "LI" // of a list
	Figure    Role = "Figure"
	Table     Role = "Table"
	Message   Role = "P" // a safety message: it is said like any paragraph
)

// mark is a thing on a page that is read as one.
type mark struct {
	role        Role
	alternative string
}

// bookmark leads readers to a place.
type bookmark struct {
	title string
	level int
	y     float64
}

// link leads from a place on a page to the top of another one.
type link struct {
	box Box
	to  *Page
}

// Tagged draws something that is read as one, in the order of the calls; alternative says in words what is seen where
// it is no text. What is drawn outside of all of them is decoration to who has the page read to them.
func (p *Page) Tagged(role Role, alternative string, draw func()) {
	id := len(p.marks)
	p.marks = append(p.marks, mark{role, alternative})
	p.sign(id, beginMark)
	draw()
	p.sign(id, endMark)
}

// Bookmark lets readers go to a height of the page by a title; level 0 is the highest.
func (p *Page) Bookmark(title string, level int, y float64) {
	p.bookmarks = append(p.bookmarks, bookmark{title, level, y})
}

// Link leads from a box of the page to another page.
func (p *Page) Link(b Box, to *Page) { p.links = append(p.links, link{b, to}) }

// The writer of PDF has no marked content. What begins and ends is written as lines far outside of the page, which are
// then replaced.
const (
	beginMark = -1000
	endMark   = -2000
	markAside = 100_000
)

func (p *Page) sign(id, what int) {
	var o canvas.Path
	o.MoveTo(-float64(markAside+id), float64(what))
	o.LineTo(-float64(markAside+id), float64(what-1))
	s := canvas.DefaultStyle
	s.Fill = canvas.Paint{Color: canvas.Black}
	p.canvas.RenderPath(&o, s, canvas.Identity)
}

var signs = regexp.MustCompile(` -(1\d{5}) -(1000|2000) m -1\d{5} -(?:1001|2001) l f`)

// svgSigns are the marks in an SVG, which has no use for them.
var svgSigns = regexp.MustCompile(`<path d="M-1\d{5} [^"]*"[^>]*/>`)

// document is a PDF, object by object.
type document struct {
	objects [][]byte // by number; the first is none
	root    int
	info    int
}

// readDocument takes a document of the writer apart: it has a table of objects at its end, and nothing is compressed
// but what is in streams (ISO 32000-1, 7.5.4).
func readDocument(data []byte) (*document, error) {
	at := bytes.LastIndex(data, []byte("\nxref\n"))
	if at < 0 {
		at = bytes.LastIndex(data, []byte("xref\n")) - 1
	}
	var n int
	if _, err := fmt.Sscanf(string(data[at+1:min(at+40, len(data))]), "xref\n0 %d", &n); err != nil || at < 0 {
		return nil, fmt.Errorf("finishing the document: its table cannot be read")
	}
	table := data[at+1:]
	table = table[bytes.IndexByte(table[5:], '\n')+6:]
	d := &document{objects: make([][]byte, n), root: 1, info: 2}
	offsets := make([]int, 0, n)
	for i := 1; i < n; i++ {
		offset, err := strconv.Atoi(string(table[20*i : 20*i+10]))
		if err != nil {
			return nil, fmt.Errorf("finishing the document: %w", err)
		}
		offsets = append(offsets, offset)
	}
	sorted := append(slices.Clone(offsets), at+1)
	slices.Sort(sorted)
	for i, offset := range offsets {
		k, _ := slices.BinarySearch(sorted, offset)
		body := data[offset:sorted[k+1]]
		body = body[bytes.Index(body, []byte(" obj\n"))+5:]
		d.objects[i+1] = slices.Clip(bytes.TrimSuffix(body[:bytes.LastIndex(body, []byte("\nendobj"))], []byte("\n")))
	}
	return d, nil
}

func (d *document) add(format string, args ...any) int {
	d.objects = append(d.objects, fmt.Appendf(nil, format, args...))
	return len(d.objects) - 1
}

// bytes writes the document again.
func (d *document) bytes() []byte {
	var b bytes.Buffer
	b.WriteString("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
	offsets := make([]int, len(d.objects))
	for i := 1; i < len(d.objects); i++ {
		offsets[i] = b.Len()
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", i, d.objects[i])
	}
	at := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(d.objects))
	for _, o := range offsets[1:] {
		fmt.Fprintf(&b, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(
		&b,
		"trailer\n<</Root %d 0 R/Info %d 0 R/Size %d>>\nstartxref\n%d\n%%%%EOF\n",
		d.root,
		d.info,
		len(d.objects),
		at,
	)
	return b.Bytes()
}

var (
	kids     = regexp.MustCompile(`/Kids\[([^\]]*)\]`)
	contents = regexp.MustCompile(`/Contents (\d+) 0 R`)
	lengths  = regexp.MustCompile(`^<</Length \d+>>stream\n`)
)

// finish adds to a document what its writer has no words for: which language it is in, what its things are and in which
// order they are read, bookmarks, and links; and compresses its pages.
func finish(data []byte, pages []*Page, about About) ([]byte, error) {
	d, err := readDocument(data)
	if err != nil {
		return nil, err
	}
	listed := kids.FindSubmatch(d.objects[3])
	if listed == nil {
		return nil, fmt.Errorf("finishing the document: it has no pages")
	}
	var numbers []int
	for _, f := range strings.Fields(string(listed[1])) {
		if n, err := strconv.Atoi(f); err == nil && n > 0 {
			numbers = append(numbers, n)
		}
	}
	if len(numbers) != len(pages) {
		return nil, fmt.Errorf("finishing the document: %d pages of %d", len(numbers), len(pages))
	}
	tree := d.structure(pages, numbers)
	outlines := d.outlines(pages, numbers)
	for i, p := range pages {
		d.finishPage(p, i, numbers[i], pages, numbers)
	}
	d.objects[1] = fmt.Appendf(
		nil,
		"<</Type/Catalog/Pages 3 0 R/MarkInfo<</Marked true>>/StructTreeRoot %d 0 R%s/Lang%s/ViewerPreferences<</DisplayDocTitle true>>>>",
		tree,
		outlines,
		textString(about.Language),
	)
	for i, o := range d.objects {
		if m := lengths.Find(o); m != nil {
			d.objects[i] = compressed(o[len(m) : len(o)-len("\nendstream")])
		}
	}
	return d.bytes(), nil
}

func compressed(stream []byte) []byte {
	var b bytes.Buffer
	w := zlib.NewWriter(&b)
	_, _ = w.Write(stream) // a buffer takes all
	_ = w.Close()
	return fmt.Appendf(nil, "<</Filter/FlateDecode/Length %d>>stream\n%s\nendstream", b.Len(), b.Bytes())
}

// structure writes the tree of what is read (ISO 32000-1, 14.7): a document with all things below it, in their order.
func (d *document) structure(pages []*Page, numbers []int) int {
	root := d.add("")
	whole := d.add("")
	var all []string
	var parents strings.Builder
	for i, p := range pages {
		var own []string
		for k, m := range p.marks {
			alternative := ""
			if m.alternative != "" {
				alternative = "/Alt" + textString(m.alternative)
			}
			n := d.add("<</Type/StructElem/S/%s/P %d 0 R/Pg %d 0 R/K %d%s>>", m.role, whole, numbers[i], k, alternative)
			own = append(own, fmt.Sprintf("%d 0 R", n))
		}
		all = append(all, own...)
		fmt.Fprintf(&parents, "%d[%s]", i, strings.Join(own, " "))
	}
	d.objects[whole] = fmt.Appendf(nil, "<</Type/StructElem/S/Document/P %d 0 R/K[%s]>>", root, strings.Join(all, " "))
	d.objects[root] = fmt.Appendf(
		nil,
		"<</Type/StructTreeRoot/K %d 0 R/ParentTree<</Nums[%s]>>/ParentTreeNextKey %d>>",
		whole,
		parents.String(),
		len(pages),
	)
	return root
}

// finishPage replaces the marks of a page's content and adds its links.
func (d *document) finishPage(p *Page, index, number int, pages []*Page, numbers []int) {
	page := d.objects[number]
	content := contents.FindSubmatch(page)
	if content != nil {
		n, _ := strconv.Atoi(string(content[1]))
		if m := lengths.Find(d.objects[n]); m != nil {
			stream := d.objects[n][len(m) : len(d.objects[n])-len("\nendstream")]
			stream = p.marked(stream)
			d.objects[n] = fmt.Appendf(nil, "<</Length %d>>stream\n%s\nendstream", len(stream), stream)
		}
	}
	var annotations []string
	for _, l := range p.links {
		to := slices.Index(pages, l.to)
		if to < 0 {
			continue
		}
		n := d.add(
			"<</Type/Annot/Subtype/Link/Border[0 0 0]/Rect[%.3f %.3f %.3f %.3f]/Dest[%d 0 R/XYZ null %.3f null]>>",
			l.box.X*pointsPerMillimetre,
			(p.Height-l.box.Foot())*pointsPerMillimetre,
			l.box.Right()*pointsPerMillimetre,
			(p.Height-l.box.Y)*pointsPerMillimetre,
			numbers[to],
			l.to.Height*pointsPerMillimetre,
		)
		annotations = append(annotations, fmt.Sprintf("%d 0 R", n))
	}
	extra := fmt.Sprintf("/StructParents %d/Tabs/S", index)
	if len(annotations) > 0 {
		extra += "/Annots[" + strings.Join(annotations, " ") + "]"
	}
	d.objects[number] = append(bytes.TrimSuffix(page, []byte(">>")), extra+">>"...)
}

// marked writes marks as marked content; what is outside of them is an artefact.
func (p *Page) marked(stream []byte) []byte {
	var b bytes.Buffer
	at := 0
	outside := func(part []byte) {
		if len(bytes.TrimSpace(part)) > 0 {
			fmt.Fprintf(&b, " /Artifact BMC %s EMC", part)
		}
	}
	for _, m := range signs.FindAllSubmatchIndex(stream, -1) {
		id, _ := strconv.Atoi(string(stream[m[2]:m[3]]))
		if part := stream[at:m[0]]; string(stream[m[4]:m[5]]) == "1000" {
			outside(part)
			fmt.Fprintf(&b, " /%s<</MCID %d>>BDC", p.marks[id-markAside].role, id-markAside)
		} else {
			b.Write(part)
			b.WriteString(" EMC")
		}
		at = m[1]
	}
	outside(stream[at:])
	return b.Bytes()
}

// outlines writes the bookmarks, and returns what the catalogue says of them.
func (d *document) outlines(pages []*Page, numbers []int) string {
	type entry struct {
		bookmark
		page, height, object, parent int
		children                     []int
	}
	var list []entry
	for i, p := range pages {
		for _, m := range p.bookmarks {
			list = append(
				list,
				entry{bookmark: m, page: numbers[i], height: int(p.Height * pointsPerMillimetre), parent: -1},
			)
		}
	}
	if len(list) == 0 {
		return ""
	}
	root := d.add("")
	var top []int
	for i := range list {
		list[i].object = d.add("")
		for k := i - 1; k >= 0; k-- {
			if list[k].level < list[i].level {
				list[i].parent = k
				list[k].children = append(list[k].children, i)
				break
			}
		}
		if list[i].parent < 0 {
			top = append(top, i)
		}
	}
	for i := range list {
		e := &list[i]
		among, parent := top, root
		if e.parent >= 0 {
			among, parent = list[e.parent].children, list[e.parent].object
		}
		k := slices.Index(among, i)
		text := fmt.Sprintf(
			"<</Title%s/Parent %d 0 R/Dest[%d 0 R/XYZ null %.3f null]",
			textString(e.title),
			parent,
			e.page,
			float64(e.height)-e.y*pointsPerMillimetre,
		)
		if k > 0 {
			text += fmt.Sprintf("/Prev %d 0 R", list[among[k-1]].object)
		}
		if k < len(among)-1 {
			text += fmt.Sprintf("/Next %d 0 R", list[among[k+1]].object)
		}
		if n := len(e.children); n > 0 {
			text += fmt.Sprintf(
				"/First %d 0 R/Last %d 0 R/Count %d",
				list[e.children[0]].object,
				list[e.children[n-1]].object,
				n,
			)
		}
		d.objects[e.object] = []byte(text + ">>")
	}
	d.objects[root] = fmt.Appendf(
		nil,
		"<</Type/Outlines/First %d 0 R/Last %d 0 R/Count %d>>",
		list[top[0]].object,
		list[top[len(top)-1]].object,
		len(list),
	)
	return fmt.Sprintf("/Outlines %d 0 R/PageMode/UseOutlines", root)
}

// textString writes words as PDF has them: in UTF-16, as hexadecimal numbers.
func textString(s string) string {
	var b strings.Builder
	b.WriteString("<FEFF")
	for _, u := range utf16.Encode([]rune(s)) {
		fmt.Fprintf(&b, "%04X", u)
	}
	b.WriteString(">")
	return b.String()
}
