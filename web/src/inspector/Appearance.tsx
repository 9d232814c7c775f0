import { onStage } from '../session/eye'
import type { Cue, Schemas } from '../api/client'
import { perform } from '../session/actions'
import { useSession } from '../session/session'
import { Button, Choice, Select, Tip } from '../ui/controls'
import { hexOf, linearOf } from '../ui/colour'
import { Field, Line, Num, Paragraph, Triple, type SettingsProps } from './fields'

export const styles: readonly { value: Schemas['Surface']['style']; text: string }[] = [
  { value: 'shaded-edges', text: 'shaded, with edges' },
  { value: 'shaded', text: 'shaded, no edges' },
  { value: 'edges', text: 'edges only' },
  { value: 'see-through', text: 'see-through edges' },
]

// Appearance is what fades, tints, surfaces, notes and cards are set by.
export function Appearance({ cues, set }: SettingsProps) {
  const cue = cues[0]!
  const one = cues.length === 1
  switch (cue.kind) {
    case 'fade':
      return (
        <>
          <Num
            label="Opacity"
            quantity="percent"
            scale={100}
            cues={cues}
            of={(c) => c.fade!.to}
            put={(c, to) => ({ ...c, fade: { to } })}
          />
          <AtOnce cues={cues} />
        </>
      )
    case 'arrow':
      return (
        <>
          <Num
            label="Shows the next"
            quantity="time"
            scale={1e-6}
            cues={cues}
            of={(c) => c.arrow!.ahead || c.duration}
            put={(c, ahead) => ({ ...c, arrow: { ahead: Math.max(0, Math.round(ahead)) || undefined } })}
          />
          <p className="mb-1 text-[12px] text-ink-2">The arrow is as long as the motion from its beginning on.</p>
        </>
      )
    case 'tint':
      return (
        <>
          <Field label="Colour">
            <input
              type="color"
              aria-label="Colour of the tint"
              value={hexOf(cue.tint!.colour)}
              onChange={(e) => set((c) => ({ ...c, tint: { ...c.tint!, colour: linearOf(e.target.value) } }))}
              className="h-7 w-full rounded-md border border-line bg-white p-0.5"
            />
          </Field>
          <Num
            label="Strength"
            quantity="percent"
            scale={100}
            cues={cues}
            of={(c) => c.tint!.amount}
            put={(c, amount) => ({ ...c, tint: { ...c.tint!, amount } })}
          />
          <Field label="">
            <Button
              kind="quiet"
              disabled={cues.every((c) => c.tint!.amount === 0)}
              onClick={() => set((c) => ({ ...c, tint: { ...c.tint!, amount: 0 } }))}
            >
              back to its own colour
            </Button>
          </Field>
        </>
      )
    case 'surface':
      return (
        <>
          <Field label="Drawn">
            <Select
              label="Drawn"
              value={cue.surface!.style}
              options={styles}
              onChange={(style) => set((c) => ({ ...c, surface: { style } }))}
            />
          </Field>
          <AtOnce cues={cues} />
        </>
      )
    case 'note':
      return one ? (
        <>
          <Paragraph
            key={cue.id}
            label="Text of the note"
            value={cue.note!.text}
            onChange={(text) => !text || set((c) => ({ ...c, note: { ...c.note!, text } }))}
          />
          <Field label="Points at">
            <Triple
              label="Points at"
              value={cue.note!.at}
              onChange={(at) => set((c) => ({ ...c, note: { ...c.note!, at } }))}
            />
          </Field>
          <Tip text="In the midst of what the shot at the playhead sees of the part">
            <Button className="w-full" onClick={() => pointAtSeen(cue, set)}>
              Point at what is seen
            </Button>
          </Tip>
        </>
      ) : null
    case 'card':
      return one ? (
        <>
          <Field label="Title">
            <Line
              key={cue.id}
              label="Title of the card"
              value={cue.card!.title}
              onChange={(title) => !title || set((c) => ({ ...c, card: { ...c.card!, title } }))}
            />
          </Field>
          <Paragraph
            key={cue.id}
            label="Text of the card"
            value={cue.card!.text ?? ''}
            onChange={(text) => set((c) => ({ ...c, card: { ...c.card!, text: text || undefined } }))}
          />
          <Field label="Background">
            <Choice
              label="Background"
              value={cue.card!.clear ? 'clear' : 'paper'}
              options={[
                { value: 'paper', text: 'Paper' },
                { value: 'clear', text: 'The picture' },
              ]}
              onChange={(v) => set((c) => ({ ...c, card: { ...c.card!, clear: v === 'clear' || undefined } }))}
              className="w-full"
            />
          </Field>
        </>
      ) : null
  }
  return null
}

// AtOnce makes a change take no time, or some again.
function AtOnce({ cues }: Pick<SettingsProps, 'cues'>) {
  const bars = useSession((s) => s.schedule?.bars)
  const once = cues.every((c) => bars?.find((b) => b.cue === c.id && !b.retraced)?.once)
  return (
    <Field label="">
      <Button kind="quiet" onClick={() => perform({ do: 'atOnce', cueIds: cues.map((c) => c.id), on: !once })}>
        {once ? 'slowly' : 'at once'}
      </Button>
    </Field>
  )
}

// pointAtSeen moves what a note points at to where its part is seen.
function pointAtSeen(cue: Cue, set: SettingsProps['set']) {
  const at = onStage()?.finder.seen(cue.targets![0]!)
  if (at) set((c) => ({ ...c, note: { ...c.note!, at } }))
  else
    useSession
      .getState()
      .tell('The shot sees nothing of this part at the playhead. Put the playhead where it does, or turn the shot.')
}
