import type { Phase } from '../session/route'

/** The phases of the work, as the header has them. */
export const phases: readonly { phase: Phase; text: string }[] = [
  { phase: 'prepare', text: 'Prepare' },
  { phase: 'direct', text: 'Direct' },
  { phase: 'proof', text: 'Proof' },
  { phase: 'release', text: 'Release' },
]
