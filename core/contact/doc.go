// Package contact finds which parts of an assembly touch or nearly touch, over
// how large an area and facing where: the graph that planning and checks stand
// on.
package contact
