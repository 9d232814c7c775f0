import { create } from 'zustand'
import { answer, api, words, type Schemas } from '../api/client'
import { myName } from '../session/me'
import { useSession } from '../session/session'

export type Settings = Schemas['Settings']
export type Kind = 'film' | 'stills' | 'frames' | 'glb' | 'captions' | 'lines' | 'sheet' | 'manual' | 'parts' | 'page'

export const kinds: readonly { value: Kind; text: string }[] = [
  { value: 'film', text: 'Film' },
  { value: 'stills', text: 'Stills' },
  { value: 'frames', text: 'Frames' },
  { value: 'glb', text: 'GLB' },
  { value: 'captions', text: 'Captions' },
]

/** What is put on paper, and on pages. */
export const paperKinds: readonly { value: Kind; text: string }[] = [
  { value: 'lines', text: 'Lines' },
  { value: 'sheet', text: 'Sheet' },
  { value: 'manual', text: 'Manual' },
  { value: 'parts', text: 'Parts list' },
  { value: 'page', text: 'Page' },
]

const allKinds = [...kinds, ...paperKinds]

/** kindName is what a kind of output is called. */
export const kindName = (kind: string | undefined) => allKinds.find((k) => k.value === kind)?.text ?? 'Film'

/** sheetOf is what is chosen of a sheet. */
export const sheetOf = (s: Settings) => (s.sheet ?? { title: {}, list: {} }) as Schemas['SheetSettings']

interface Ordering {
  /** What is being chosen. */
  settings: Settings
  /** The product's variants that it is made in, "-" for the whole product; none for the one that the reveal is for. */
  variants: readonly string[]
  /** Outputs that are to be ordered together. */
  set: readonly Settings[]
  /** Whether the words hold signs for which there is no font. */
  lacking: boolean
  setLacking(lacking: boolean): void
  /** Whether what most films go without is unfolded. */
  more: boolean
  change(by: Partial<Settings>): void
  put(settings: Settings): void
  add(): void
  drop(index: number): void
  use(set: readonly Settings[]): void
}

// useOrder holds what is chosen in Release while the page is open.
export const useOrder = create<Ordering>()((set, get) => ({
  settings: { kind: 'film', captions: true, purpose: 'web' },
  variants: [],
  set: [],
  lacking: false,
  more: false,
  setLacking: (lacking) => set({ lacking }),
  change: (by) => set({ settings: { ...get().settings, ...by } }),
  put: (settings) => set({ settings }),
  add: () => set({ set: [...get().set, named(get().settings, get().set)] }),
  drop: (index) => set({ set: get().set.filter((_, i) => i !== index) }),
  use: (list) => set({ set: list }),
}))

// named gives an output of a set a name that no other one has.
function named(s: Settings, among: readonly Settings[]): Settings {
  const base = s.name || titleOf(s)
  let name = base
  for (let n = 2; among.some((o) => o.name === name); n++) name = `${base} ${n}`
  return { ...s, name }
}

// titleOf says in a word what an output is.
export function titleOf(s: Settings): string {
  const kind = kindName(s.kind)
  return s.kind === 'film' && s.format && s.format !== 'mp4-h264' ? s.format.replace(/^.*-/, '').toUpperCase() : kind
}

/** Asked says what is ordered beside the outputs themselves. */
interface Asked {
  /** The product's variants in each of which they are made; none for those that they name themselves. */
  variants?: readonly string[]
  /** The reveal that they are made of, where that is not the open one. */
  of?: string
}

// order asks for outputs; what is wrong comes back in words.
export async function order(list: readonly Settings[], { variants = [], of }: Asked = {}): Promise<string | null> {
  const revealId = of ?? useSession.getState().revealId
  try {
    await answer(
      api.POST('/api/reveals/{id}/outputs', {
        params: { path: { id: revealId! } },
        body: { outputs: [...list], variants: [...variants], by: myName() },
      }),
    )
    return null
  } catch (e) {
    return words(e)
  }
}

// draftNow asks for a rough film at once: small, and as fast as can be.
export async function draftNow(): Promise<void> {
  const { doc, core, tell } = useSession.getState()
  if (!doc) return
  const { width, height, rate } = core!.ask('draft')
  const { font, fonts } = useOrder.getState().settings
  const { variant, product } = useSession.getState()
  const shown = product?.variants?.find((v) => v.id === variant)
  const wrong = await order([
    {
      variant: product?.variants?.length ? variant || '-' : undefined,
      kind: 'film',
      font,
      fonts,
      boxes: true,
      purpose: 'draft',
      width,
      height,
      rate,
      captions: true,
      name: `${doc.title}${shown ? `, ${shown.name}` : ''}, draft`,
    },
  ])
  if (wrong) tell(wrong)
  else if (!location.pathname.includes('/release'))
    useSession.getState().inform('A draft is being made: Release shows it.')
}

// atFullSize is a draft's order as a film to be watched.
export function atFullSize(s: Settings): Settings {
  const { name } = s
  return {
    ...s,
    purpose: 'web',
    width: undefined,
    height: undefined,
    rate: undefined,
    name: name?.replace(/, draft$/, ''),
  }
}

/** rateName is what a rate is called: 23.976, 29.97, 59.94 for those that are 1000/1001 of a whole number. */
export const rateName = (rate: number, slowed?: boolean) =>
  slowed ? ((rate * 1000) / 1001).toFixed(3).replace(/0+$/, '') : String(rate)
