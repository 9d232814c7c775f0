import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { markedBelow } from '../core/tree'
import * as actions from './actions'
import * as cues from './cues'
import { install } from './fakeServer'
import * as picking from './picking'
import { useSession } from './session'
import * as script from './steps'
import { useTransport } from './transport'

const picked = () => useSession.getState().selection.nodes
const steps = () => useSession.getState().doc!.steps
const saved = () => vi.waitFor(() => expect(useSession.getState().saving).toBe('saved'), 5000)

beforeEach(async () => {
  await install()
  useTransport.setState(useTransport.getInitialState())
  await useSession.getState().openProject('p')
  await useSession.getState().openReveal('v')
})

afterEach(async () => {
  await saved()
  useSession.getState().close()
})

test('a pick grows to what holds it, and Ctrl adds and takes away', () => {
  const s = useSession.getState()
  s.pickNode('cover', false)
  s.pickNode('screw', true)
  expect(picked()).toEqual(['cover', 'screw'])
  s.pickNode('cover', true)
  expect(picked()).toEqual(['screw'])
  picking.growToParent()
  expect(picked()).toEqual(['/'])
})

test('what lies below a marked node is marked with it', () => {
  const nodes = [
    { id: 'a', parent: -1 },
    { id: 'b', parent: 0 },
    { id: 'c', parent: 1 },
    { id: 'd', parent: 0 },
  ]
  expect(markedBelow(nodes, new Set(['b']))).toEqual([false, true, true, false])
})

test('what is put out of sight is of the view only', () => {
  useSession.getState().select({ nodes: ['cover'] })
  const before = JSON.stringify(useSession.getState().doc)
  picking.hidePicked()
  expect(useSession.getState().hidden).toEqual(['cover'])
  expect(picked()).toEqual([])
  expect(JSON.stringify(useSession.getState().doc)).toBe(before)
  useSession.getState().hide([])
  expect(useSession.getState().hidden).toEqual([])
})

test('a rule that finds nothing says so and leaves the pick', async () => {
  await vi.waitFor(() => expect(useSession.getState().survey).not.toBeNull())
  useSession.getState().select({ nodes: ['cover'] })
  picking.pickBy('neighbours')
  expect(useSession.getState().message).toMatch(/touches no other part/)
  expect(picked()).toEqual(['cover'])
})

test('a cue starts where the playhead stands, and the last step makes room for it', async () => {
  useTransport.setState({ time: 1_500_000 })
  actions.takeShot({ target: [0, 0, 0], orientation: [0, 0, 0, 1], distance: 100, focalLength: 50 })
  const cue = steps()[0]!.cues![0]!
  expect(cue.offset).toBe(1_500_000)
  expect(steps()[0]!.duration).toBeGreaterThanOrEqual(cue.offset + cue.duration)
  expect(useSession.getState().selection.cues).toEqual([cue.id])
  await saved()
})

test('a step is split where the playhead stands', async () => {
  useTransport.setState({ time: 1_200_000 })
  script.splitHere()
  expect(steps().map((s) => s.duration)).toEqual([1_200_000, 800_000])
  expect(useSession.getState().selection.step).toBe(steps()[1]!.id)
  await saved()
})

test('an operation that cannot be performed says why and changes nothing', () => {
  const before = JSON.stringify(useSession.getState().doc)
  expect(actions.perform({ do: 'joinStep', stepId: 's1' })).toBeNull()
  expect(useSession.getState().message).toMatch(/no step behind/i)
  expect(JSON.stringify(useSession.getState().doc)).toBe(before)
})

test('copied cues come in at the playhead, onto the parts that are picked', async () => {
  actions.addOrbit()
  useSession.getState().run({
    op: 'insertCue',
    stepId: 's1',
    index: 0,
    cue: {
      id: 'p',
      kind: 'pull',
      targets: ['cover'],
      offset: 100_000,
      duration: 300_000,
      easing: 'smooth',
      pull: { axes: 'own', along: [0, 0, 1], distance: 5 },
    },
  })
  useSession.getState().select({ cues: ['p'] })
  cues.copySelected()
  useTransport.setState({ time: 900_000 })
  useSession.getState().select({ nodes: ['screw'] })
  cues.pasteHere()
  const pasted = cues.findCue(useSession.getState().selection.cues[0]!)!.cue
  expect(pasted.targets).toEqual(['screw'])
  expect(pasted.offset).toBe(900_000)
  expect(pasted.pull!.distance).toBe(5)
  await saved()
})

test('movements are turned round, cues switched off and duplicated', async () => {
  useSession.getState().run({
    op: 'insertCue',
    stepId: 's1',
    index: 0,
    cue: {
      id: 'p',
      kind: 'pull',
      targets: ['cover'],
      offset: 0,
      duration: 300_000,
      easing: 'smooth',
      pull: { axes: 'own', along: [0, 0, 1], distance: 5 },
    },
  })
  useSession.getState().select({ cues: ['p'] })
  cues.reverseDirection()
  expect(cues.findCue('p')!.cue.pull!.distance).toBe(-5)
  cues.toggleMuted()
  expect(cues.findCue('p')!.cue.muted).toBe(true)
  cues.duplicateSelected()
  const copy = useSession.getState().selection.cues[0]!
  expect(copy).not.toBe('p')
  expect(cues.findCue(copy)!.cue.offset).toBe(300_000)
  cues.removeSelected()
  expect(cues.findCue(copy)).toBeNull()
  await saved()
})

test('parts are left out of a reveal and brought back; opacities of 1 are not written', () => {
  script.setSuppressed(['cover'], true)
  expect(useSession.getState().doc!.opening.suppressed).toEqual(['cover'])
  script.setSuppressed(['cover'], false)
  expect(useSession.getState().doc!.opening.suppressed).toBeUndefined()
  script.setOpeningOpacity('screw', 0.4)
  expect(useSession.getState().doc!.opening.opacities).toEqual([{ node: 'screw', opacity: 0.4 }])
  script.setOpeningOpacity('screw', 1)
  expect(useSession.getState().doc!.opening.opacities).toBeUndefined()
})

test('what is selected is followed by the next cue of the same parts', async () => {
  useSession.getState().run({
    op: 'insertCue',
    stepId: 's1',
    cue: {
      id: 'p',
      kind: 'pull',
      targets: ['cover'],
      offset: 0,
      duration: 700_000,
      easing: 'smooth',
      pull: { axes: 'own', along: [0, 0, 1], distance: 5 },
    },
    index: 0,
  })
  useSession.getState().select({ cues: ['p'] })
  actions.again('fade')
  const next = cues.findCue(useSession.getState().selection.cues[0]!)!.cue
  expect([next.kind, next.targets, next.offset]).toEqual(['fade', ['cover'], 700_000])
  expect(useTransport.getState().time).toBe(700_000)
  await saved()
})

test('twins are pasted onto the picked parts, share a change, and are parted', async () => {
  useSession.getState().run({
    op: 'insertCue',
    stepId: 's1',
    cue: {
      id: 'p',
      kind: 'pull',
      targets: ['cover'],
      offset: 0,
      duration: 700_000,
      easing: 'smooth',
      pull: { axes: 'own', along: [0, 0, 1], distance: 5 },
    },
    index: 0,
  })
  useSession.getState().select({ cues: ['p'] })
  cues.copySelected()
  useSession.getState().select({ nodes: ['screw'] })
  cues.pasteTwins()
  const id = useSession.getState().selection.cues[0]!
  expect(cues.findCue(id)!.cue.twin).toBe('p')
  cues.changeCues([id], (c) => ({ ...c, pull: { ...c.pull!, distance: 9 } }))
  expect(cues.findCue('p')!.cue.pull!.distance).toBe(9)
  cues.removeSelected()
  useSession.getState().select({ cues: ['p'] })
  cues.toggleMuted()
  expect(cues.findCue('p')!.cue.muted).toBe(true)
  await saved()
})

test('a marker is set at the playhead, renamed and removed', async () => {
  useTransport.getState().seek(500_000)
  script.addMarker()
  expect(steps()[0]!.markers).toEqual([{ offset: 500_000, text: 'Marker 1' }])
  script.renameMarker('s1', 0, ' Look ')
  expect(steps()[0]!.markers![0]!.text).toBe('Look')
  script.removeMarker('s1', 0)
  expect(steps()[0]!.markers).toBeUndefined()
  await saved()
})

test('this moment becomes the opening, and what led there is switched off', async () => {
  useSession.getState().run({
    op: 'insertCue',
    stepId: 's1',
    cue: {
      id: 'p',
      kind: 'pull',
      targets: ['cover'],
      offset: 0,
      duration: 400_000,
      easing: 'smooth',
      pull: { axes: 'own', along: [0, 0, 1], distance: 5 },
    },
    index: 0,
  })
  useTransport.getState().seek(1_000_000)
  script.openHere()
  expect(useSession.getState().doc!.opening.poses).toHaveLength(1)
  expect(cues.findCue('p')!.cue.muted).toBe(true)
  expect(useSession.getState().message).toMatch(/switched off/)
  await saved()
})
