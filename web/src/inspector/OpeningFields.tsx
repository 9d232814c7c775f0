import { onStage } from '../session/eye'
import { useMemo } from 'react'
import { nodeById, useSession } from '../session/session'
import { openHere, setCaptions, setSuppressed, setOpeningOpacity } from '../session/steps'
import type { Schemas } from '../api/client'
import { useVariants } from '../session/variants'
import { Button, Choice, Select, Tick, Tip } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { styles } from './Appearance'
import { Field, Head } from './fields'

const places = [
  { value: 'lower-left', text: 'lower left' },
  { value: 'lower-middle', text: 'lower middle' },
  { value: 'upper-left', text: 'upper left' },
] as const

// OpeningFields shows how everything stands before time zero, and how words are set.
export function OpeningFields() {
  const doc = useSession((s) => s.doc)!
  const assembly = useSession((s) => s.assembly)
  const { run } = useSession.getState()
  const names = nodeById(assembly)
  const core = useSession((s) => s.core)!
  const captions = useMemo(() => core.ask('captions'), [core, doc]) // eslint-disable-line react-hooks/exhaustive-deps
  const name = (id: string) => names.get(id)?.name ?? id
  const o = doc.opening
  const some = <T,>(list: T[]) => (list.length > 0 ? list : undefined)
  const changed = [
    ...(o.poses ?? []).map((p) => ({
      text: `${name(p.node)}, moved`,
      without: { poses: some(o.poses!.filter((x) => x !== p)) },
    })),
    ...(o.tints ?? []).map((t) => ({
      text: `${name(t.node)}, tinted`,
      without: { tints: some(o.tints!.filter((x) => x !== t)) },
    })),
    ...(o.surfaces ?? []).map((t) => ({
      text: `${name(t.node)}, ${styles.find((x) => x.value === t.style)?.text}`,
      without: { surfaces: some(o.surfaces!.filter((x) => x !== t)) },
    })),
  ]
  return (
    <>
      <Head title="Opening" note="before 0 s" />
      <Field label="Lens">
        <NumberField
          label="Lens"
          quantity="length"
          value={doc.opening.camera.focalLength}
          onChange={(lens) =>
            run({ op: 'setOpening', opening: { ...doc.opening, camera: { ...doc.opening.camera, focalLength: lens } } })
          }
        />
      </Field>
      <div className="mt-2 mb-3 flex gap-1.5">
        <Button
          className="grow"
          onClick={() =>
            onStage() && run({ op: 'setOpening', opening: { ...doc.opening, camera: onStage()!.eyes.present() } })
          }
        >
          Use my eye
        </Button>
        <Button className="grow" onClick={() => onStage()?.eyes.lookFrom(doc.opening.camera)}>
          Look from there
        </Button>
      </div>
      {(doc.opening.suppressed ?? []).map((n) => (
        <div key={n} className="flex items-center justify-between py-0.5">
          <span className="truncate">{names.get(n)?.name ?? n}, left out</span>
          <Button kind="quiet" onClick={() => setSuppressed([n], false)}>
            Bring back
          </Button>
        </div>
      ))}
      {(doc.opening.opacities ?? []).map((o) => (
        <Field key={o.node} label={names.get(o.node)?.name ?? o.node}>
          <NumberField
            label="Opacity"
            quantity="percent"
            value={o.opacity * 100}
            onChange={(v) => setOpeningOpacity(o.node, v / 100)}
          />
        </Field>
      ))}
      {changed.map(({ text, without }) => (
        <div key={text} className="flex items-center justify-between py-0.5">
          <span className="truncate">{text}</span>
          <Button kind="quiet" onClick={() => run({ op: 'setOpening', opening: { ...doc.opening, ...without } })}>
            As built
          </Button>
        </div>
      ))}
      <Tip text="Camera, poses and looks as they are at the playhead" keys="Shift Home">
        <Button className="mt-1 w-full" onClick={openHere}>
          Make this moment the opening
        </Button>
      </Tip>
      <p className="mt-1 text-[12px] text-ink-2">To leave a part out, pick it and choose “Leave out”.</p>
      <VariantFields />
      <FrameFields />
      <Head title={<span className="mt-2">Captions</span>} />
      <Field label="Show">
        <Choice
          label="Show"
          value={captions.show}
          className="w-full"
          options={[
            { value: 'all', text: 'All' },
            { value: 'titles', text: 'Titles' },
            { value: 'none', text: 'None' },
          ]}
          onChange={(show) => setCaptions({ show })}
        />
      </Field>
      <Field label="Place">
        <Select label="Place" value={captions.place} options={places} onChange={(place) => setCaptions({ place })} />
      </Field>
      <Field label="Size">
        <NumberField
          label="Size of the captions"
          quantity="percent"
          value={captions.size * 100}
          onChange={(v) => setCaptions({ size: v / 100 })}
        />
      </Field>
      <Field label="Background">
        <Choice
          label="Background of the captions"
          value={captions.backing ? 'paper' : 'none'}
          className="w-full"
          options={[
            { value: 'none', text: 'None' },
            { value: 'paper', text: 'Paper' },
          ]}
          onChange={(v) => setCaptions({ backing: v === 'paper' || undefined })}
        />
      </Field>
    </>
  )
}

// VariantFields say which variant the reveal is for, and what becomes of steps that one has nothing to do in.
function VariantFields() {
  const list = useVariants()
  const said = useSession((s) => s.doc?.variants) ?? {}
  if (list.length === 0) return null
  const set = (change: Schemas['Variants']) => {
    const now = { ...said, ...change }
    const usual = !now.for && !now.keepGaps
    const { run, showVariant } = useSession.getState()
    if (run({ op: 'setVariants', variants: usual ? undefined : now }) && 'for' in change) showVariant(now.for ?? '')
  }
  return (
    <>
      <Head title={<span className="mt-2">Variants</span>} />
      <Field label="Made for">
        <Select
          label="The variant that the reveal is for"
          value={said.for ?? 'all'}
          options={[{ value: 'all', text: 'all parts' }, ...list.map((v) => ({ value: v.id, text: v.name }))]}
          onChange={(v) => set({ for: v === 'all' ? undefined : v })}
        />
      </Field>
      <Tip text="Off: steps that a variant has nothing to do in take no time">
        <div>
          <Tick on={said.keepGaps ?? false} onChange={(on) => set({ keepGaps: on || undefined })}>
            All variants last as long
          </Tick>
        </div>
      </Tip>
    </>
  )
}

const frameSizes = [
  [1280, 720],
  [1920, 1080],
  [2560, 1440],
  [3840, 2160],
  [1440, 1080],
  [1080, 1080],
  [1080, 1350],
  [1080, 1920],
] as const

// FrameFields are the reveal's own frame, and what is common to all of its pictures.
function FrameFields() {
  const frame = useSession((s) => s.doc)!.frame
  const { run } = useSession.getState()
  const set = (change: Partial<typeof frame>) => run({ op: 'setFrame', frame: { ...frame, ...change } })
  const own = `${frame.width} × ${frame.height}`
  const known = frameSizes.map(([w, h]) => `${w} × ${h}`)
  return (
    <>
      <Head title={<span className="mt-2">Frame</span>} />
      <Field label="Size">
        <Select
          label="Size of the frame"
          value={own}
          className="mono w-full"
          options={[...new Set([own, ...known])].map((v) => ({ value: v, text: v }))}
          onChange={(v) => {
            const [width, height] = v.split(' × ').map(Number) as [number, number]
            set({ width, height })
          }}
        />
      </Field>
      <Field label="Rate">
        <NumberField
          label="Frames a second"
          quantity="plain"
          value={frame.rate}
          onChange={(v) => set({ rate: Math.round(v) })}
        />
      </Field>
      <Tip text="Parts darken each other where they come near, on the stage and in all pictures">
        <div>
          <Tick on={!frame.noOcclusion} onChange={(on) => set({ noOcclusion: on ? undefined : true })}>
            Contact darkening
          </Tick>
        </div>
      </Tip>
    </>
  )
}
