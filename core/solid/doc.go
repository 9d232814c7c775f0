// Package solid holds shapes: triangle meshes in millimetres with their
// normals, patches and the edges that are worth drawing. A shape knows nothing
// of where it stands; several parts may share one.
package solid
