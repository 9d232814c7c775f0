package assembly

import (
	"strconv"
	"strings"
	"unicode"
)

// Namer makes the ids of an assembly's nodes. The same names in the same order
// always give the same ids.
type Namer struct {
	used map[NodeID]int
}

// Child returns the id of a node with the given name below parent. The root
// has the id "/" and is not part of its children's paths. A second node of one
// name gets "~2", a third "~3".
func (m *Namer) Child(parent NodeID, name string) NodeID {
	if m.used == nil {
		m.used = map[NodeID]int{}
	}
	base := NodeID(Plain(name))
	if parent != Root {
		base = parent + "/" + base
	}
	m.used[base]++
	if n := m.used[base]; n > 1 {
		return base + NodeID("~"+strconv.Itoa(n))
	}
	return base
}

// Root is the id of every assembly's root.
const Root NodeID = "/"

// Plain turns a name into lower-case words joined by hyphens. Letters of every
// script stay; a name without any becomes "part".
func Plain(name string) string {
	var b strings.Builder
	gap := false
	for _, r := range strings.ToLower(name) {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r == '.' {
			if gap && b.Len() > 0 {
				b.WriteByte('-')
			}
			gap = false
			b.WriteRune(r)
			if b.Len() > 60 {
				break
			}
			continue
		}
		gap = true
	}
	if b.Len() == 0 {
		return "part"
	}
	return b.String()
}
