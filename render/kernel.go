package render

// loops are the inner loops of the renderer. They stand twice, plain and on vectors, and give
// the same bytes: the same operations in the same order.
type loops struct {
	name string

	// A part's vertices: into the camera's frame, and onto the screen.
	move   func(out []vertex, positions, normals []float32, m *matrix)
	screen func(out []onScreen, in []vertex, w *viewport)

	// Faces into a layer: what is set up, over a box.
	edges   func(*layer, *edges)
	fillBox func(*layer, *edges)
	// leastInverseZ is the least depth of a block.
	leastInverseZ func(l *layer, x0, y0, y1 int) float32

	// Whose the pixels of a row are.
	classifyRow         func(owner *[tileSide * samples]int32) (whole, goesOn, background, ink uint64)
	alike               func(a, b *[tileSide * samples]int32) uint64
	classifyTransparent func(deep *[tileSide]float32, owner *[tileSide * samples]int32, depth *[tileSide * samples]float32, from, to int) (some, full, goesOn uint64)

	// Points of surfaces: their normals, how they look, and into their pixels.
	normals func(p *shadingSamples, f *triangleSetup, x, n int)
	light   func(p *shadingSamples, from, to int, s *surface, l *lights)
	lay     func(out *colours, q *shadingSamples, r *flatRun)

	// Colours of a row.
	fill     func(out *colours, rgb *[3]float32)
	choose   func(out, from *colours, set uint64)
	darken   func(rgb *colours, ink *[3]float32, dark *contactShadowRow)
	insert   func(t *tile, y int, pixels uint64)
	blend    func(c *colours, t *tile, y int)
	quantise func(in *colours, more *[tileSide]float32, out *rowBytes)
	yuv      func(a, b, lumaA, lumaB, u, v []byte, n *yuvRounding)
}

// kernel is what this build runs on this machine.
var kernel = plainLoops

var plainLoops = loops{
	name: "plain",
	move: movePlain, screen: screenPlain,
	edges: rasteriseEdges, fillBox: fillBoxPlain, leastInverseZ: leastInverseZOf,
	classifyRow: classifyRowPlain, alike: alikePlain, classifyTransparent: classifyTransparentPlain,
	normals: normalsPlain, light: lightPlain, lay: layPlain,
	fill: fillPlain, choose: choosePlain, darken: darkenPlain, insert: insertPlain, blend: blendPlain,
	quantise: quantisePlain, yuv: yuvPlain,
}

// Kernel names the inner loops that this build runs on this machine: "plain", or
// "avx2" where they use vectors.
func Kernel() string { return kernel.name }
