// How the line to the server is: whether it answers.
import { create } from 'zustand'

interface Line {
  /** The stream of events is broken: nothing of what others do arrives. */
  silent: boolean
  /** Requests that got no answer and are asked again. */
  again: number
}

export const useLine = create<Line>(() => ({ silent: false, again: 0 }))
