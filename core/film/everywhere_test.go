package film_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// Every machine works out the same bits: digests of the example, as amd64 has them. With SLOWREVEAL_RENEW=1 they are
// written anew.
func TestFramesAreTheSameBitsOnEveryMachine(t *testing.T) {
	a := demo.Pump().Assembly
	f := film.Compile(a, demo.Teardown(a))
	fr := f.NewFrame()
	var got strings.Builder
	for at := reveal.Micros(0); at <= f.Duration(); at += 2_300_000 {
		f.At(at, fr)
		fmt.Fprintf(&got, "%d %016x\n", at, fr.Digest())
	}
	const kept = "testdata/digests.txt"
	if os.Getenv("SLOWREVEAL_RENEW") != "" {
		require.NoError(t, os.WriteFile(kept, []byte(got.String()), 0o644))
	}
	want, err := os.ReadFile(kept)
	require.NoError(t, err)
	assert.Equal(t, string(want), got.String())
}
