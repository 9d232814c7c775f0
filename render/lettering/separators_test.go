package lettering

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Signs that only separate are no words, and break nothing: of any font, also of one that has them, and with any signs
// around them.
func TestSeparatorsAreSpaces(t *testing.T) {
	face, err := loadTypeface(nil, "literata-latin-400-normal")
	require.NoError(t, err)
	for _, r := range []rune{'\u2028', '\u2029', '\u0085', '\v', '\x00', '\u200b', '\u202e', '\u2066'} {
		assert.NotEmpty(t, face.wrap([]rune("Hold"+string(r)+"it"), 20, 400), "%U", r)
		face.wrap([]rune{r}, 20, 400)
		face.wrap([]rune{r, r, 'a'}, 20, 5)
	}
	if data, err := os.ReadFile("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"); err == nil {
		f, err := ReadFont(data)
		require.NoError(t, err)
		assert.NoError(t, f.Try(), "a font that most machines have")
	}
}
