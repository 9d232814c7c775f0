package server

import (
	"slices"
	"sync"

	"slowreveal/core/assembly"
	"slowreveal/core/proof"
)

// memories keeps what was found of pairs of parts in the assemblies that were looked at last, whatever project and
// reveal that was in.
type memories struct {
	mu   sync.Mutex
	kept []assemblyMemory // the one that was used last is the last
}

type assemblyMemory struct {
	digest string
	memory *proof.Memory
}

// mostMemories is how many are kept; each variant of a product is an assembly of its own.
const mostMemories = 8

func (m *memories) of(a *assembly.Assembly) *proof.Memory {
	digest := proof.Digest(a)
	m.mu.Lock()
	defer m.mu.Unlock()
	at := slices.IndexFunc(m.kept, func(k assemblyMemory) bool { return k.digest == digest })
	known := assemblyMemory{digest, proof.NewMemory()}
	if at >= 0 {
		known = m.kept[at]
		m.kept = slices.Delete(m.kept, at, at+1)
	}
	if m.kept = append(m.kept, known); len(m.kept) > mostMemories {
		m.kept = slices.Delete(m.kept, 0, 1)
	}
	return known.memory
}
