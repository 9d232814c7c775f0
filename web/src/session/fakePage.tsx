// A page in memory for the tests of what stands on it: the project and the reveal of the fake server are open, and the
// core answers.
import { cleanup, render } from '@testing-library/react'
import { Tooltip } from 'radix-ui'
import type { ReactNode } from 'react'
import { expect, vi } from 'vitest'
import type { Command, Cue } from '../api/client'
import { CoreContext } from '../core/useCore'
import { install, type Stand } from './fakeServer'
import { useSession } from './session'
import { useTransport } from './transport'

/** opened gives the server behind a page on which the reveal is open, of an assembly of two parts or of another one. */
export async function opened(assembly?: Parameters<typeof install>[0]): Promise<Stand> {
  const stand = await install(assembly)
  useTransport.setState(useTransport.getInitialState())
  await useSession.getState().openProject('p')
  await useSession.getState().openReveal('v')
  return stand
}

/** closed leaves the page when everything is stored. */
export async function closed() {
  cleanup()
  await saved()
  useSession.getState().close()
  useSession.setState({ message: null, offer: null, hidden: [], hover: null })
}

/** shown puts something on the page. */
export const shown = (what: ReactNode) =>
  render(
    <CoreContext.Provider value={useSession.getState().core}>
      <Tooltip.Provider>{what}</Tooltip.Provider>
    </CoreContext.Provider>,
  )

export const saved = () => vi.waitFor(() => expect(useSession.getState().saving).toBe('saved'), 5000)

/** step is a step of the open reveal, the first one if not said otherwise. */
export const step = (k = 0) => useSession.getState().doc!.steps[k]!

/** cue is a cue of the open reveal. */
export const cue = (id: string) =>
  useSession
    .getState()
    .doc!.steps.flatMap((s) => s.cues ?? [])
    .find((c) => c.id === id)!

/** pull is a cue that pulls the cover. */
export const pull = (id: string, change: Partial<Cue> = {}): Cue => ({
  id,
  kind: 'pull',
  targets: ['cover'],
  offset: 0,
  duration: 1_000_000,
  easing: 'smooth',
  pull: { axes: 'own', along: [0, 0, 1], distance: 10 },
  ...change,
})

/** add puts a cue into the first step. */
export const add = (cue: Cue): Command => ({ op: 'insertCue', stepId: 's1', index: 0, cue })
