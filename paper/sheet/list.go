package sheet

import (
	"fmt"
	"math"
	"strconv"

	"slowreveal/core/item"
	"slowreveal/paper"
)

// column is a column of the parts list.
type column struct {
	name  string
	width float64 // mm of 180
	right bool
	text  func(it *item.Item) string
}

func columns(items []item.Item) []column {
	list := []column{
		{"Item", 11, true, func(it *item.Item) string { return strconv.Itoa(it.Number) }},
		{"Qty", 11, true, func(it *item.Item) string { return strconv.Itoa(it.Quantity) }},
		{"Name", 58, false, func(it *item.Item) string { return it.Name }},
		{"Reference", 42, false, func(it *item.Item) string { return it.Designation }},
		{"Material, finish", 38, false, func(it *item.Item) string { return it.Finish }},
	}
	masses, remarks := false, false
	for i := range items {
		masses, remarks = masses || items[i].Mass > 0, remarks || items[i].Remark != ""
	}
	if masses {
		list = append(list, column{"Mass, g", 15, true, func(it *item.Item) string { return massText(it.Mass) }})
	}
	if remarks {
		list = append(list, column{"Remark", 30, false, func(it *item.Item) string { return it.Remark }})
	}
	total := 0.0
	for _, c := range list {
		total += c.width
	}
	for i := range list {
		list[i].width *= titleWidth / total
	}
	return list
}

func massText(grams float64) string {
	if grams <= 0 {
		return ""
	}
	digits := max(0, 2-int(math.Floor(math.Log10(grams))))
	return strconv.FormatFloat(grams, 'f', min(digits, 3), 64)
}

// Heights of a row of the parts list, mm: the usual one, and that of long lists.
const (
	rowHeight   = 5.4
	leastHeight = 4.3
)

// table is the size of a parts list: columns beside one another, of so many rows.
type table struct {
	columns, rows int
	row           float64 // mm
}

func (t table) height() float64 { return t.row*float64(t.rows+1) + 0.8 }

// tableOf lays a list out in a height: with lower rows where it must, and in columns beside one another where that is
// not enough.
func tableOf(items int, height float64) table {
	t := table{1, items, rowHeight}
	for ; ; t.columns++ {
		t.rows = (items + t.columns - 1) / t.columns
		t.row = min(rowHeight, (height-0.8)/float64(t.rows+1))
		if t.row >= leastHeight || t.columns == 4 {
			return t
		}
	}
}

// drawList draws the parts list with its foot, or with topDown its top, where the box says: of it its width, its right
// side and that side count. Further columns of a long list stand to the left.
func drawList(p *paper.Page, fonts *paper.Fonts, items []item.Item, t table, box paper.Box, topDown bool) {
	columns := columns(items)
	for i := range t.columns {
		from, to := min(i*t.rows, len(items)), min((i+1)*t.rows, len(items))
		height := t.row*float64(to-from+1) + 0.8
		at := paper.Box{X: box.X - float64(i)*box.Width, Y: box.Foot() - height, Width: box.Width, Height: height}
		if topDown {
			at.Y = box.Y
		}
		drawTable(p, fonts, columns, items[from:to], t.row, at, topDown)
	}
}

func drawTable(
	p *paper.Page,
	fonts *paper.Fonts,
	columns []column,
	items []item.Item,
	row float64,
	at paper.Box,
	topDown bool,
) {
	k, letters := at.Width/titleWidth, min(1, row/4.9)
	head, text := fonts.Words(paper.Title, 2.7*letters, paper.Ink), fonts.Words(paper.Label, 3*letters, paper.Ink)
	pen, thin := paper.Pen{
		Width:  narrow,
		Ink:    paper.Ink,
		Square: true,
	}, paper.Pen{
		Width:  0.13,
		Ink:    paper.Grey,
		Square: true,
	}
	headTop, firstTop, step := at.Foot()-row-0.8, at.Foot()-2*row-0.8, -row
	if topDown {
		headTop, firstTop, step = at.Y, at.Y+row+0.8, row
	}
	p.Fill(paper.Box{X: at.X, Y: headTop, Width: at.Width, Height: row + 0.8}.Outline(), headColour)
	x := at.X
	for i, c := range columns {
		width := c.width * k
		say := func(w paper.Words, s string, y float64) {
			s = w.Fitted(s, width-2)
			if c.right {
				p.SayRight(w, s, x+width-1, y)
			} else {
				p.Say(w, s, x+1, y)
			}
		}
		say(head, c.name, headTop+row-0.24*row)
		for n := range items {
			top := firstTop + float64(n)*step
			say(text, c.text(&items[n]), top+row-0.29*row)
			if i == 0 && n > 0 {
				line := top
				if !topDown {
					line += row
				}
				p.Line(at.X, line, at.Right(), line, thin)
			}
		}
		if i > 0 {
			p.Line(x, at.Y, x, at.Foot(), paper.Pen{Width: hair, Ink: paper.Ink, Square: true})
		}
		x += width
	}
	p.Stroke(at.Outline(), pen)
}

// unseen says which items are in no view.
func unseen(items []item.Item, missing []int) string {
	if len(missing) == 0 {
		return ""
	}
	text := "Not seen in a view: item"
	if len(missing) > 1 {
		text += "s"
	}
	for i, k := range missing {
		if i > 0 {
			text += ","
		}
		text += fmt.Sprintf(" %d", items[k].Number)
	}
	return text
}
