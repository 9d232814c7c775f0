package assembly_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

func TestAJointOfAnotherKindHasWhatThatNeeds(t *testing.T) {
	low, high := -10.0, 50.0
	j := assembly.Joint{
		ID: "j", Name: "J", Kind: assembly.Revolute, Body: "b", Base: "a", Axis: space.Vec3{0.1, 0.9, 0.4}, Min: &low, Max: &high, Rest: 5,
	}
	for _, kind := range assembly.JointKinds {
		as := j.As(kind)
		require.NoError(t, as.Check(), kind)
		assert.Equal(t, kind != assembly.Prismatic, as.Min != nil, "degrees are no mm: %s", kind)
		assert.Equal(t, kind == assembly.Helical, as.Lead != 0, kind)
		assert.Equal(t, kind == assembly.Universal, as.Second != nil, kind)
		assert.Nil(t, as.As(assembly.Revolute).Second)
	}
	assert.Equal(t, space.Vec3{1, 0, 0}, *j.As(assembly.Universal).Second, "across the axis")
	j.Kind, j.Lead = assembly.Helical, -2
	assert.Equal(t, -2.0, j.As(assembly.Helical).Lead, "a left-hand thread stays one")
}

func TestWhatFollowsFromAChangeOfAJoint(t *testing.T) {
	j := assembly.Joint{
		Kind:  assembly.Revolute,
		Body:  "b",
		Axis:  space.Vec3{1, 0, -2},
		Point: space.Vec3{3, 4, 5},
		Rest:  30,
	}
	assert.Equal(t, j, j.Moving("b"))
	other := j.Moving("c")
	assert.Equal(t, space.Vec3{0, 0, 1}, other.Axis)
	assert.Equal(t, space.Vec3{}, other.Point)
	limited := j.Limited(true)
	assert.Equal(t, []float64{-60, 120}, []float64{*limited.Min, *limited.Max})
	assert.Nil(t, limited.Limited(false).Min)
	j.Kind = assembly.Prismatic
	assert.Equal(t, 10.0, *j.Limited(true).Min)
	assert.Equal(t, space.Vec3{-1, 0, 2}, j.Reversed().Axis)
	assert.Equal(t, j, j.Reversed().Reversed())
}

func TestCouplingsInWords(t *testing.T) {
	for says, c := range map[string]assembly.Coupling{
		"18 : 54 teeth, inner":    {Kind: assembly.Gear, Sizes: [2]float64{18, 54}, Inner: true},
		"belt 40 : 22.5, crossed": {Kind: assembly.Belt, Sizes: [2]float64{40, 22.5}, Crossed: true},
		"rack, pinion Ø 24 mm":    {Kind: assembly.Rack, Sizes: [2]float64{0, 24}},
		"1.25 mm a turn":          {Kind: assembly.Screw, Ratio: 1.25},
		"cam, 2 rows":             {Kind: assembly.Cam, Table: [][2]float64{{0, 0}, {360, 0}}},
		"belt 12500 : 125.375":    {Kind: assembly.Belt, Sizes: [2]float64{12500, 125.375}},
		"× 4":                     {Kind: assembly.Ratio, Ratio: 4},
	} {
		c.Joint, c.By = "own", "other"
		assert.Equal(t, says, c.Says("own"))
	}
	c := assembly.Coupling{Kind: assembly.Ratio, Ratio: 4, Joint: "own", By: "other"}
	assert.Equal(t, "× 0.25", c.Says("other"))
	c = assembly.Coupling{Kind: assembly.Gear, Sizes: [2]float64{18, 54}, Joint: "own", By: "other"}
	assert.Equal(t, "54 : 18 teeth", c.Says("other"))
	assert.False(t, assembly.Rack.Fits(false))
	assert.True(t, assembly.Cam.Fits(false))
	assert.False(t, assembly.Gear.Fits(true))
}

func TestATableOfACamIsReadRowByRow(t *testing.T) {
	rows, err := assembly.ParseTable("0 0\n 90, 5\r\n\n180;10\n")
	require.NoError(t, err)
	assert.Equal(t, [][2]float64{{0, 0}, {90, 5}, {180, 10}}, rows)
	for _, bad := range []string{"0 0\n1", "0 0\n1 2 3", "0 0\none two", "0 0\n1 inf"} {
		_, err := assembly.ParseTable(bad)
		assert.EqualError(t, err, "row 2 of the cam’s table is not two numbers")
	}
}
