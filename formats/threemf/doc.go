// Package threemf reads 3MF packages: the build's objects with their components
// as a tree, base materials and colour groups as finishes, the unit.
package threemf
