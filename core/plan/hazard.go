package plan

import (
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// HazardWords say what has to be minded: what it is called in a list, and the notice of the step in which it counts.
type HazardWords struct {
	Hazard assembly.Hazard `json:"hazard"`
	Name   string          `json:"name"`
	Signal reveal.Signal   `json:"signal"`
	says   string
	// holds says that it counts from when the first of what fastens it is undone.
	holds bool
}

// Hazards are the words of all hazards, the gravest first. The signal words are those of ANSI Z535.6: DANGER where a
// mistake kills or maims, WARNING where it may, CAUTION where it hurts. Which belongs to what is common practice, no
// source: an author changes the notice where it is wrong.
var Hazards = []HazardWords{
	{assembly.Live, "Live: switch off first", reveal.Danger,
		"%s carries a voltage: switch the supply off, and make sure that it stays off.", true},
	{assembly.Sprung, "Under spring load", reveal.Warning,
		"%s is under spring load: hold it, and let it go slowly.", true},
	{assembly.Heavy, "Heavy: hold it", reveal.Caution, "%s is heavy: hold it before it comes free.", true},
	{assembly.Sharp, "Sharp edges", reveal.Caution, "%s has sharp edges: wear gloves.", false},
}

// notice is what has to be minded in a step that makes some moves: of what leaves in it, and of what is unfastened in
// it. It is said once of each, where it counts first.
func (w *writer) notice(group []int) *reveal.Notice {
	var texts []string
	var gravest reveal.Signal
	for _, words := range Hazards {
		for _, h := range w.a.Hazards {
			if h.Hazard != words.Hazard || w.minded[h.Node] || !w.concerns(group, h.Node, words.holds) {
				continue
			}
			w.minded[h.Node] = true
			if gravest == "" {
				gravest = words.Signal
			}
			texts = append(texts, fmt.Sprintf(words.says, "“"+w.a.Nodes[w.index[h.Node]].Name+"”"))
		}
	}
	if len(texts) == 0 {
		return nil
	}
	return &reveal.Notice{Signal: gravest, Text: strings.Join(texts, " ")}
}

// concerns reports whether moves take off a node, what holds it or is in it, or, where it is to be held, a fastener
// of it.
func (w *writer) concerns(group []int, node assembly.NodeID, holds bool) bool {
	for _, k := range group {
		m := &w.p.Moves[k]
		if slices.ContainsFunc(m.Nodes, func(n assembly.NodeID) bool { return w.in(n, node) || w.in(node, n) }) {
			return true
		}
		if holds && m.Fastener != "" &&
			slices.ContainsFunc(m.Beside, func(n assembly.NodeID) bool { return w.in(n, node) }) {
			return true
		}
	}
	return false
}

// in reports whether a node is another one, or lies in it.
func (w *writer) in(node, other assembly.NodeID) bool {
	at, there := w.index[other]
	if !there {
		return false
	}
	for i, ok := w.index[node]; ok && i >= 0; i = w.a.Nodes[i].Parent {
		if i == at {
			return true
		}
	}
	return false
}
