import { beforeEach, describe, expect, it } from 'vitest'
import { atFullSize, titleOf, useOrder, type Settings } from './settings'

const film: Settings = { kind: 'film', captions: true, purpose: 'web' }

describe('a set of outputs', () => {
  beforeEach(() => useOrder.setState({ settings: film, set: [] }))

  it('gives every output a name of its own', () => {
    const { add, put } = useOrder.getState()
    add()
    add()
    put({ kind: 'film', format: 'gif' })
    add()
    put({ kind: 'stills', name: 'Film' })
    add()
    expect(useOrder.getState().set.map((s) => s.name)).toEqual(['Film', 'Film 2', 'GIF', 'Film 3'])
  })

  it('keeps what was chosen when the choice goes on', () => {
    const { add, change, drop } = useOrder.getState()
    change({ card: { title: 'DP-40', duration: 3e6 }, then: [{ reverse: true }], crossFade: 5e5 })
    add()
    change({ then: undefined })
    expect(useOrder.getState().set[0]).toMatchObject({ then: [{ reverse: true }], crossFade: 5e5 })
    expect(useOrder.getState().settings.then).toBeUndefined()
    drop(0)
    expect(useOrder.getState().set).toEqual([])
  })
})

describe('what outputs are called', () => {
  it('is their kind, or the format where that says more', () => {
    expect(
      [
        film,
        { ...film, format: 'mp4-h264' },
        { ...film, format: 'webm-vp9' },
        { kind: 'glb' },
        { kind: 'captions', format: 'srt' },
      ].map((s) => titleOf(s as Settings)),
    ).toEqual(['Film', 'Film', 'VP9', 'GLB', 'Captions'])
  })
})

describe('a draft at full size', () => {
  it('asks for the same in the reveal’s own size and rate', () => {
    const draft: Settings = {
      kind: 'film',
      purpose: 'draft',
      width: 640,
      height: 360,
      rate: 15,
      captions: true,
      from: 2e6,
      to: 4e6,
      name: 'Service teardown, draft',
    }
    expect(atFullSize(draft)).toEqual({
      kind: 'film',
      purpose: 'web',
      width: undefined,
      height: undefined,
      rate: undefined,
      captions: true,
      from: 2e6,
      to: 4e6,
      name: 'Service teardown',
    })
  })
})
