package release

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/demo"
	"slowreveal/paper/manual"
)

// Each kind in each of its formats says by which ending and which type its file goes.
func TestPaperSaysWhatItIs(t *testing.T) {
	m := demo.Pump()
	doc := demo.Teardown(m.Assembly)
	for kind, formats := range paperFormats {
		for _, format := range formats {
			w, err := Plan(Settings{Kind: kind, Format: format}, m, doc, nil)
			require.NoError(t, err)
			assert.NotEmpty(t, w.Extension(), "%s as %s", kind, format)
			assert.NotEmpty(t, w.Media(), "%s as %s", kind, format)
			lacks, err := w.Lacks()
			require.NoError(t, err)
			assert.Empty(t, lacks)
		}
	}
	m.Assembly.Nodes[1].Name = "泵头"
	w, err := Plan(Settings{Kind: Sheet}, m, doc, nil)
	require.NoError(t, err)
	assert.ErrorContains(t, w.Readable(), "泵", "a part's name needs a font on a sheet")
	m.Assembly.Nodes[1].Name = "Pump head"
	w, err = Plan(Settings{Kind: Manual, Manual: &manual.Settings{Closing: "完"}}, m, doc, nil)
	require.NoError(t, err)
	assert.ErrorContains(t, w.Readable(), "完", "closing words need one in a manual")
	doc.Steps[0].Title = "开门"
	w, err = Plan(Settings{Kind: Manual}, m, doc, nil)
	require.NoError(t, err)
	assert.ErrorContains(t, w.Readable(), "开", "titles of steps, too")
	_, err = Plan(Settings{Kind: Manual, Format: "docx"}, m, doc, nil)
	assert.ErrorContains(t, err, "docx")
}
