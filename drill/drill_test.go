package main

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// A little of the exercises that find most: what the drill does for minutes (docs/reliability.md), in its short form.
func TestTheDrillInItsShortForm(t *testing.T) {
	var err error
	program, err = filepath.Abs(filepath.Join("..", "bin", "slowreveal"))
	require.NoError(t, err)
	if _, err := os.Stat(program); err != nil {
		t.Fatalf("the program is not built (make build): %v", err)
	}
	only := []string{"cut-off", "disk-full", "hostile"}
	if !testing.Short() {
		only = nil
	}
	require.True(t, run(context.Background(), short, only), "see the table above")
}
