package film

import (
	"slowreveal/core/assembly"
)

// channel is something of nodes that cues change in time: opacity, tint, how they are drawn. A node begins with what
// the opening gives it, or else with what holds it has; its own cues change that one after the other.
type channel[T any] struct {
	// usual is what a node has that nothing changes.
	usual T
	// blend goes from one value to another, u from 0 to 1 and, with some easings, beyond.
	blend func(from, to T, u float64) T
	// under, when set, is what a node with a value of its own has below what holds it: then it begins with usual.
	under   func(above, own T) T
	opened  []*T          // by node, from the opening
	changes [][]change[T] // by node, in document order
	nodes   []int32       // those that may have another value than usual, parents first
}

// change is what one cue does to a channel of a node.
type change[T any] struct {
	track int
	to    T
}

func newChannel[T any](nodes int, usual T, blend func(from, to T, u float64) T) channel[T] {
	return channel[T]{usual: usual, blend: blend, opened: make([]*T, nodes), changes: make([][]change[T], nodes)}
}

func (c *channel[T]) add(node, track int, to T) {
	c.changes[node] = append(c.changes[node], change[T]{track, to})
}

// find lists the nodes whose value can be another one than usual, and notes them in any.
func (c *channel[T]) find(nodes []assembly.Node, any []bool) {
	there := make([]bool, len(nodes))
	for i := range nodes {
		p := nodes[i].Parent
		if there[i] = len(c.changes[i]) > 0 || c.opened[i] != nil || p >= 0 && there[p]; there[i] {
			c.nodes = append(c.nodes, int32(i))
			any[i] = true
		}
	}
}

// own is a node's value without that of what holds it, where it begins with from.
func (c *channel[T]) own(i int, from T, progress []float64) T {
	if c.opened[i] != nil {
		from = *c.opened[i]
	}
	for k := range c.changes[i] {
		from = c.blend(from, c.changes[i][k].to, progress[c.changes[i][k].track])
	}
	return from
}

// evaluate fills in the values of all nodes that may have another one than usual.
func (c *channel[T]) evaluate(nodes []assembly.Node, values []T, progress []float64) {
	for _, i := range c.nodes {
		above := c.usual
		if p := nodes[i].Parent; p >= 0 {
			above = values[p]
		}
		if c.under != nil {
			values[i] = c.under(above, c.own(int(i), c.usual, progress))
		} else {
			values[i] = c.own(int(i), above, progress)
		}
	}
}

// filled is a value for each node.
func (c *channel[T]) filled() []T {
	values := make([]T, len(c.changes))
	for i := range values {
		values[i] = c.usual
	}
	return values
}
