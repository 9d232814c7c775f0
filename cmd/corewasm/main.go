//go:build js && wasm

// Command corewasm is the core as the browser runs it: an editor behind a handful
// of exported functions. Documents travel as JSON through one buffer each way;
// poses, opacities and the shadow lie in the module's memory, where the page
// reads them without copying.
package main

import (
	"encoding/json"
	"runtime"
	"runtime/debug"
	"unsafe"

	"slowreveal/core/assembly"
	"slowreveal/core/editor"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

var (
	open    editor.Editor
	inbox   []byte
	outbox  []byte
	waiting = make(chan struct{})
)

func main() {
	debug.SetGCPercent(50) // less room to grow: documents come and go
	warm()
	<-waiting // the exports stay callable
}

// warm takes a small assembly in and lets go of it: a browser translates what is called for the first time, which is
// done before an assembly of ten thousand parts waits for it.
func warm() {
	small := &assembly.Assembly{
		Nodes:    []assembly.Node{{ID: "root", Parent: -1, Shape: -1}, {ID: "part", Finishes: []int{0}}},
		Shapes:   []assembly.ShapeRef{{Max: space.Vec3{1, 1, 1}, Submeshes: 1}},
		Finishes: make([]assembly.Finish, 1),
	}
	packed, err := assembly.Pack(small)
	if err == nil {
		err = open.OpenAssembly(packed)
	}
	if err != nil {
		panic(err)
	}
	open.At(0)
	closeAll()
}

//go:wasmexport reserve
func reserve(n int32) unsafe.Pointer {
	if int(n) > cap(inbox) {
		inbox = make([]byte, n)
	}
	inbox = inbox[:n]
	return pointer(inbox)
}

//go:wasmexport answer
func answer() unsafe.Pointer { return pointer(outbox) }

// The calls return the length of the answer; a negative length is that of an
// error's text.

// What a large document needs while it is read is let go of soon: a module's memory grows, and never
// shrinks again. After this one tidy is called in a task of its own.
//
//go:wasmexport openAssembly
func openAssembly() int32 {
	if open.Close() {
		runtime.GC()
	}
	return reply(nil, open.OpenAssembly(inbox))
}

// closeAll takes everything out of the editor and gives its memory back.
//
//go:wasmexport closeAll
func closeAll() {
	open.Close()
	tidy()
}

// tidy lets go of the buffers and of what nothing refers to.
//
//go:wasmexport tidy
func tidy() {
	inbox, outbox = nil, nil
	runtime.GC()
}

//go:wasmexport openReveal
func openReveal() int32 { return answered(open.OpenReveal(inbox)) }

//go:wasmexport shape
func shape(aspect float64) int32 { return reply(nil, open.Shape(aspect)) }

//go:wasmexport ask
func ask() int32 { return reply(open.Ask(inbox)) }

//go:wasmexport at
func at(micros float64) { open.At(reveal.Micros(micros)) }

//go:wasmexport atRest
func atRest() { open.AtRest() }

// tryJoint sets the joint whose id is in the inbox to a value, in the assembly at rest.
//
//go:wasmexport tryJoint
func tryJoint(value float64) int32 { return reply(nil, open.TryJoint(assembly.JointID(inbox), value)) }

//go:wasmexport matrices
func matrices() unsafe.Pointer { return pointer(open.Matrices) }

//go:wasmexport opacities
func opacities() unsafe.Pointer { return pointer(open.Opacities) }

//go:wasmexport tints
func tints() unsafe.Pointer { return pointer(open.Tints) }

//go:wasmexport surfaces
func surfaces() unsafe.Pointer { return pointer(open.Surfaces) }

//go:wasmexport flow
func flow() unsafe.Pointer { return pointer(open.Flow) }

//go:wasmexport flowLength
func flowLength() int32 { return int32(len(open.Flow)) }

//go:wasmexport altered
func altered() unsafe.Pointer { return pointer(open.Altered) }

//go:wasmexport alteredLength
func alteredLength() int32 { return int32(len(open.Altered)) }

//go:wasmexport version
func version() int32 { return open.Version }

//go:wasmexport dark
func dark() unsafe.Pointer { return pointer(open.ContactShadow()) }

// order sorts the numbers of nodes in the inbox, of 32 bits, as an eye sees them: the farthest first.
//
//go:wasmexport order
func order(x, y, z, aheadX, aheadY, aheadZ float64, parallel int32) int32 {
	nodes := unsafe.Slice((*int32)(pointer(inbox)), len(inbox)/4)
	eye := look.Eye{
		At:           space.Vec{X: x, Y: y, Z: z},
		Ahead:        space.Vec{X: aheadX, Y: aheadY, Z: aheadZ},
		Orthographic: parallel != 0,
	}
	if !open.Order(nodes, eye) {
		return 0
	}
	return 1
}

//go:wasmexport camera
func camera() unsafe.Pointer { return unsafe.Pointer(&open.Camera[0]) }

func answered(s editor.State, err error) int32 { return reply(s, err) }

func reply(v any, err error) int32 {
	if err == nil {
		outbox, err = json.Marshal(v)
	}
	if err != nil {
		outbox = []byte(err.Error())
		return -int32(len(outbox))
	}
	return int32(len(outbox))
}

func pointer[T any](s []T) unsafe.Pointer {
	if len(s) == 0 {
		return nil
	}
	return unsafe.Pointer(&s[0])
}
