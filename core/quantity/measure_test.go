package quantity

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParse(t *testing.T) {
	for _, c := range []struct {
		q    Kind
		text string
		want float64
	}{
		{Length, "58", 58}, {Length, "2*35", 70}, {Length, " -12 mm", -12}, {Length, "−12", -12}, {Length, "1 in", 25.4},
		{Length, "2,5 cm + 3", 28}, {Length, "(10+5)*2", 30}, {Length, "100/8", 12.5}, {Length, "2·(3−1)", 4}, {Length, "0.5 m", 500},
		{Angle, "3 turns", 1080}, {Angle, "90°", 90}, {Angle, "1 rad", 57.29577951308232}, {Angle, "-1 rev", -360},
		{Time, "1:07.5", 67.5}, {Time, "250 ms", 0.25}, {Time, "2", 2}, {Time, "1.5 min", 90}, {Percent, "15 %", 15}, {Plain, "8", 8},
	} {
		got, err := Parse(c.q, c.text)
		require.NoError(t, err, c.text)
		assert.InDelta(t, c.want, got, 1e-12, c.text)
	}
}

func TestParseRefuses(t *testing.T) {
	for _, text := range []string{"", "mm", "1/0", "2*", "(3", "1 2", "abc", "5 kg", "1e999", "((((((((((((((((((((((1", "----------------------------1", "1:75"} {
		_, err := Parse(Length, text)
		assert.Error(t, err, text)
	}
	_, err := Parse("weight", "1")
	assert.Error(t, err)
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"2*35", "1:07.5", "(1+2)/3 mm", "−4°", "\xff", "1e"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for q := range units {
			if v, err := Parse(q, text); err == nil {
				assert.False(t, v != v, "NaN from %q", text)
			}
		}
	})
}

func TestSeveralValuesAreChangedAtOnce(t *testing.T) {
	for text, want := range map[string][]float64{"12": {12, 12}, "+0.5": {1.5, 4.5}, "-=1": {0, 3}, "−2": {-2, -2}, "*2": {2, 8}, "/4": {0.25, 1}, "× 1,5": {1.5, 6}, "+1 cm": {11, 14}} {
		got, err := Adjust(Length, text, []float64{1, 4})
		require.NoError(t, err, text)
		assert.InDeltaSlice(t, want, got, 1e-12, text)
	}
	one, err := Adjust(Length, "+5", []float64{1})
	require.NoError(t, err)
	assert.Equal(t, []float64{5}, one, "of one value the plus is a sign")
	one, err = Adjust(Length, "+=5", []float64{1})
	require.NoError(t, err)
	assert.Equal(t, []float64{6}, one)
	for _, text := range []string{"/0", "*2 mm", "+", "* *"} {
		_, err = Adjust(Length, text, []float64{1, 2})
		assert.Error(t, err, text)
	}
}
