package demo

import (
	"slowreveal/core/assembly"
)

// The finishes of the pump. Colours are given as sRGB bytes and kept linear.
var finishes = map[string]assembly.Finish{
	"steel":     finish("Bare steel", 176, 180, 184, 0.85, 0.38),
	"dark":      finish("Black oxide steel", 52, 54, 58, 0.7, 0.45),
	"aluminium": finish("Satin aluminium", 205, 207, 208, 0.75, 0.48),
	"brass":     finish("Brass", 205, 165, 88, 0.85, 0.36),
	"housing":   finish("Light grey enamel", 214, 216, 212, 0, 0.5),
	"panel":     finish("Petrol enamel", 38, 84, 92, 0, 0.45),
	"head":      finish("Warm white polymer", 232, 228, 218, 0, 0.42),
	"rotor":     finish("Orange polymer", 214, 104, 48, 0, 0.45),
	"roller":    finish("Ivory polymer", 238, 226, 190, 0, 0.35),
	"rubber":    finish("Black rubber", 40, 40, 42, 0, 0.85),
	"silicone":  finish("Silicone tube", 226, 222, 206, 0, 0.4),
	"motor":     finish("Graphite enamel", 70, 76, 84, 0.2, 0.5),
	"board":     finish("Board green", 30, 92, 62, 0, 0.5),
	"chip":      finish("Moulded black", 36, 38, 42, 0, 0.55),
	"glass":     finish("Display glass", 20, 28, 36, 0, 0.15),
	"clear": {Name: "Clear plastic", Colour: [3]float64{0.62, 0.78, 0.80}, Opacity: 0.32,
		Roughness: 0.12},
}

func finish(name string, r, g, b, metal, rough float64) assembly.Finish {
	return assembly.Finish{
		Name:      name,
		Colour:    [3]float64{assembly.Linear(r / 255), assembly.Linear(g / 255), assembly.Linear(b / 255)},
		Opacity:   1,
		Metalness: metal,
		Roughness: rough,
	}
}
