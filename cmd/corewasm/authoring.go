//go:build js && wasm && !player

package main

import "slowreveal/core/assembly"

//go:wasmexport openSurvey
func openSurvey() int32 {
	err := open.OpenSurvey(inbox)
	tidy()
	return reply(nil, err)
}

//go:wasmexport apply
func apply() int32 { return answered(open.Apply(inbox)) }

//go:wasmexport do
func do() int32 { return answered(open.Perform(inbox)) }

//go:wasmexport preview
func preview() int32 { return answered(open.Preview(inbox)) }

//go:wasmexport settle
func settle() int32 { return answered(open.Settle()) }

// variant shows the product as the variant has it whose id is in the inbox.
//
//go:wasmexport variant
func variant() int32 { return answered(open.Variant(assembly.VariantID(inbox))) }
