// What is selected and looked at, and what is said to the author.
import { nothing, type Part, type SelectionSlice } from './state'

export const selectionSlice: Part<SelectionSlice> = (set, get) => ({
  hidden: [],
  lastPick: [],
  copied: [],
  message: null,
  passing: false,
  offer: null,
  selection: nothing,
  hover: null,

  hide: (hidden) => set({ hidden }),

  select: (s) => set({ selection: { ...nothing, ...s }, ...(s.nodes?.length && { lastPick: s.nodes }) }),

  pickNode(id, add) {
    const now = get().selection
    if (!add) set({ selection: { ...nothing, nodes: [id] }, lastPick: [id] })
    else {
      const nodes = now.nodes.includes(id) ? now.nodes.filter((n) => n !== id) : [...now.nodes, id]
      set({ selection: { ...nothing, nodes }, lastPick: nodes })
    }
  },

  setHover: (hover) => get().hover !== hover && set({ hover }),
  tell: (message, offer) => set({ message, offer: offer ?? null, passing: false }),
  inform: (message, offer) => set({ message, offer: offer ?? null, passing: true }),
})
