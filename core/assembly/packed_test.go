package assembly_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/demo"
)

func TestWhatIsPackedIsUnpacked(t *testing.T) {
	stress := demo.Stress(500, 12).Assembly
	heartless := *stress
	heartless.Shapes = append([]assembly.ShapeRef(nil), stress.Shapes...)
	heartless.Shapes[1].Heart = nil
	heartless.Nodes = append([]assembly.Node(nil), stress.Nodes...)
	heartless.Nodes[3].Name = "Schräubchen 部品"
	for _, a := range []*assembly.Assembly{demo.Pump().Assembly, stress, &heartless} {
		data, err := assembly.Pack(a)
		require.NoError(t, err)
		back, err := assembly.Unpack(data)
		require.NoError(t, err)
		assert.Equal(t, a, back)
		for cut := 0; cut < len(data); cut += 1 + len(data)/97 {
			_, err := assembly.Unpack(data[:cut])
			assert.Error(t, err)
		}
	}
}

// Whatever arrives, it is read or refused.
func FuzzUnpack(f *testing.F) {
	data, err := assembly.Pack(demo.Pump().Assembly)
	require.NoError(f, err)
	f.Add(data)
	f.Add([]byte{})
	f.Fuzz(func(t *testing.T, data []byte) {
		if a, err := assembly.Unpack(data); err == nil {
			_ = a.Check()
		}
	})
}
