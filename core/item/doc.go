// Package item makes the parts list of an assembly and finds places for its item references (“balloons”): which parts
// are one item, in which order, and where the circles with their numbers go, so that no leaders cross.
package item
