// Package sheet makes drawing sheets: views of moments on a sheet of a standard size, with frame, title block, item
// references and parts list.
package sheet
