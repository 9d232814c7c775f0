package reveal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/reveal"
)

func TestInstructionsAreSimpleMarkdown(t *testing.T) {
	got := reveal.Prose("Close the **inlet** first.\n\n- *Loosen* it\n- 3 * 4 = 12, 2 ** 3\n")
	assert.Equal(t, []reveal.Block{
		{Runs: []reveal.Run{{Text: "Close the "}, {Text: "inlet", Strong: true}, {Text: " first."}}},
		{Item: true, Runs: []reveal.Run{{Text: "Loosen", Emphasis: true}, {Text: " it"}}},
		{Item: true, Runs: []reveal.Run{{Text: "3 *"}, {Text: " 4 = 12, 2 **"}, {Text: " 3"}}},
	}, got)
	assert.Equal(
		t,
		"Close the inlet first.\n– Loosen it",
		reveal.PlainProse("Close the **inlet** first.\n- *Loosen* it"),
	)
	assert.Equal(t, "اضغط هنا", reveal.PlainProse("**اضغط** هنا"))
	assert.Empty(t, reveal.Prose(" \n "))
}
