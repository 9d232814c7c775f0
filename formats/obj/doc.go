// Package obj reads Wavefront OBJ files with their MTL libraries: objects and
// groups become parts, materials finishes.
package obj
