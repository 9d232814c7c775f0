package examine_test

import (
	"bytes"
	"context"
	"image"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/examine"
)

// A picture whose pixels take more than a look may take: the look ends, this process does not, and it is
// said why.
func TestALookThatNeedsTooMuchEndsAlone(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewNRGBA(image.Rect(0, 0, 6000, 6000)))) // 144 MB of pixels in 150 kB
	path := written(t, b.Bytes())
	assert.NoError(t, examine.File(context.Background(), examine.Picture, path))
	defer examine.SetMemory(100 << 20)()
	assert.ErrorIs(t, examine.File(context.Background(), examine.Picture, path), examine.ErrTooMuch)
}
