//go:build !purego

package render

import (
	"math"
	"slowreveal/core/look"
)

// lightAVX2 is lightPlain for eight points at once. What it writes past the last point belongs to
// points that are still to come. By hand it takes a quarter of the time.
//
//go:noescape
func lightAVX2(p *shadingSamples, from, to int, s *surface, l *lights)

// lightWide holds the numbers of lightPlain, each eight times.
var lightWide = func() (w [lightNumbers][lanes]float32) {
	for i, v := range [lightNumbers]float32{
		lightOne: 1, lightHalf: 0.5, lightSign: float32(math.Copysign(0, -1)),
		lightThreshold: float32(-room.From), lightGainOfUp: float32(1 / room.Wide), lightFloor: float32(room.Floor), lightRise: float32(room.Ceiling),
		lightKeyBox: float32(-room.KeyFrom), lightKeyBoxGain: float32(1 / room.KeyWide), lightKeyBoxLight: float32(room.KeyBox),
		lightFillBox: float32(-room.FillFrom), lightFillBoxGain: float32(1 / room.FillWide), lightFillBoxLight: float32(room.FillBox), lightMost: math.Float32frombits(floatMost), lightThree: 3, lightStrength: look.Mirror, lightTiniest: tiny,
		lightFirst: math.Float32frombits(curveFirst),
	} {
		spread(&w[i], v)
	}
	return w
}()

const (
	lightOne = iota
	lightHalf
	lightSign
	lightThreshold
	lightKeyBox
	lightKeyBoxGain
	lightKeyBoxLight
	lightFillBox
	lightFillBoxGain
	lightFillBoxLight
	lightGainOfUp
	lightFloor
	lightRise
	lightThree
	lightStrength
	lightTiniest
	lightFirst
	lightMost
	lightNumbers
)
