import { create } from 'zustand'
import { documentSlice } from './document'
import { projectSlice } from './project'
import { selectionSlice } from './selection'
import type { Session } from './state'

export { kept } from './document'
export { labelOf, namesOf, nodeById } from './labels'
export { loadCore } from './project'

/** createSession makes a session of its three parts: the project, the open reveal, and what is selected. */
export const createSession = () =>
  create<Session>((...a) => ({ ...projectSlice(...a), ...documentSlice(...a), ...selectionSlice(...a) }))

export const useSession = createSession()
