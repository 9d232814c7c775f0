// Package assembly describes the product: a tree of subassemblies and parts,
// each with a rigid pose in its parent, the shapes that parts share, and the
// finishes that they wear. An assembly is one imported state; nothing in this
// package changes over time.
package assembly
