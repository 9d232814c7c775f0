package sheet_test

import (
	"context"
	"testing"

	"slowreveal/paper"
	"slowreveal/paper/sheet"
)

func BenchmarkExample(b *testing.B) {
	var set sheet.Settings
	if err := set.Fill(); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		fonts, err := paper.NewFonts()
		if err != nil {
			b.Fatal(err)
		}
		if _, err := sheet.Draw(context.Background(), pump(), fonts, set, nil); err != nil {
			b.Fatal(err)
		}
	}
}
