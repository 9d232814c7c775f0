package gltf_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/demo"
	"slowreveal/formats/gltf"
)

// What an author has said of parts goes with the file, and is left out where it fits no part.
func TestWhatIsSaidOfPartsGoesWithTheFile(t *testing.T) {
	m := demo.Pump()
	m.Assembly.Hazards = []assembly.NodeHazard{{Node: "housing/hood", Hazard: assembly.Heavy}}
	m.Assembly.Variants = []assembly.Variant{{ID: "bare", Name: "Bare", Without: []assembly.NodeID{"housing/hood"}}}
	file, err := gltf.Write(m)
	require.NoError(t, err)
	back, err := gltf.Read(file, "pump")
	require.NoError(t, err)
	assert.Equal(t, m.Assembly.Hazards, back.Assembly.Hazards)
	assert.Equal(t, m.Assembly.Variants, back.Assembly.Variants)
	assert.Equal(t, m.Assembly.Joints, back.Assembly.Joints)

	m.Assembly.Hazards[0].Hazard = "haunted"
	file, err = gltf.Write(m)
	require.NoError(t, err)
	back, err = gltf.Read(file, "pump")
	require.NoError(t, err)
	assert.Empty(t, back.Assembly.Hazards)
	require.Len(t, back.Report.Ignored, 1)
	assert.Contains(t, back.Report.Ignored[0], `the hazards in the file: node "housing/hood": "haunted" is nothing`)
}
