import { createContext, useContext } from 'react'
import type { Core } from './core'

/** The core for what is drawn below, null until it is there. */
export const CoreContext = createContext<Core | null>(null)

export const useCore = () => useContext(CoreContext)
