// Package stl reads STL files, binary and ASCII: triangles without a tree, a
// unit or colours. Each solid of an ASCII file becomes a part.
package stl
