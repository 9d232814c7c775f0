package reveal

import "strings"

// Block is a paragraph or an entry of a list, in an instruction.
type Block struct {
	Item bool  `json:"item,omitempty"`
	Runs []Run `json:"runs"`
}

// Run is a piece of text in one style.
type Run struct {
	Text     string `json:"text"`
	Strong   bool   `json:"strong,omitempty"`
	Emphasis bool   `json:"emphasis,omitempty"`
}

// Prose reads the little Markdown that instructions may have: **strong**,
// *emphasis*, and lines that begin with "- " as entries of a list (after CommonMark,
// from memory; nothing else of it is read).
func Prose(text string) []Block {
	blocks := []Block{}
	for _, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		item := strings.HasPrefix(line, "- ")
		if line = strings.TrimSpace(strings.TrimPrefix(line, "- ")); line != "" {
			blocks = append(blocks, Block{item, runs(line)})
		}
	}
	return blocks
}

// PlainProse is the text of Prose without any style, a line for each block.
func PlainProse(text string) string {
	var lines []string
	for _, b := range Prose(text) {
		line := ""
		if b.Item {
			line = "– "
		}
		for _, r := range b.Runs {
			line += r.Text
		}
		lines = append(lines, line)
	}
	return strings.Join(lines, "\n")
}

// runs splits a line where ** or * opens and closes a style; one that never closes
// is a star.
func runs(line string) []Run {
	var out []Run
	add := func(text string, strong, emphasis bool) {
		if text != "" {
			out = append(out, Run{text, strong, emphasis})
		}
	}
	for line != "" {
		at := strings.IndexByte(line, '*')
		if at < 0 {
			break
		}
		mark := "*"
		if strings.HasPrefix(line[at:], "**") {
			mark = "**"
		}
		rest := line[at+len(mark):]
		end := strings.Index(rest, mark)
		if end <= 0 || strings.HasPrefix(rest, " ") || rest[end-1] == ' ' {
			add(line[:at+len(mark)], false, false)
			line = rest
			continue
		}
		add(line[:at], false, false)
		add(rest[:end], mark == "**", mark == "*")
		line = rest[end+len(mark):]
	}
	add(line, false, false)
	return out
}
