// How the next move of the picked parts is set: what the card on the stage shows, and keys and menus make.
import { create } from 'zustand'
import type { Aim } from './actions'

interface State {
  /** Null while nothing can be moved. */
  aim: Aim | null
  /** The parts that it is of. */
  nodes: readonly string[]
  /** The way that is set, by its id; null for the usual one of its axes. */
  at: string | null
  /** A hand has chosen it: it stays, also where another one is free. */
  chosen: boolean
  /** How the last movement was made, for the next one of the same parts. */
  last: Aim | null
}

export const useAim = create<State>(() => ({ aim: null, nodes: [], at: null, chosen: false, last: null }))

/** flipAim lets the next move go the other way. */
export function flipAim() {
  const { aim } = useAim.getState()
  if (aim) useAim.setState({ at: aim.way.opposite, chosen: true })
}
