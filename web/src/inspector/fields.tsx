import type { ReactNode } from 'react'
import type { Command, Cue } from '../api/client'
import type { Quantity } from '../core/core'
import { useSession } from '../session/session'
import { NumberField, NumbersField } from '../ui/NumberField'
import { useWriting } from '../session/writing'

export function Head({ title, note, children }: { title: ReactNode; note?: ReactNode; children?: ReactNode }) {
  return (
    <div className="mb-2 flex min-h-7 items-center gap-1.5">
      <h2 className="flex grow items-center gap-1.5 truncate text-[13.5px] font-semibold">{title}</h2>
      {note && <span className="mono truncate text-[11.5px] text-ink-2">{note}</span>}
      {children}
    </div>
  )
}

export function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="mb-[3px] grid grid-cols-[84px_minmax(0,1fr)] items-center gap-2">
      <span className="text-[12.5px] text-ink-2">{label}</span>
      {children}
    </div>
  )
}

export function Triple({
  value,
  onChange,
  label,
  plain,
}: {
  value: readonly number[]
  onChange(v: number[]): void
  label: string
  plain?: boolean
}) {
  return (
    <div className="grid grid-cols-3 gap-1">
      {['X', 'Y', 'Z'].map((axis, i) => (
        <NumberField
          key={axis}
          label={`${label} ${axis}`}
          quantity={plain ? 'plain' : 'length'}
          value={value[i]!}
          className="!px-1 !text-[11px]"
          onChange={(v) => onChange(value.map((x, k) => (k === i ? v : x)))}
        />
      ))}
    </div>
  )
}

/** The cues whose settings are shown: none of them a twin. */
export interface SettingsProps {
  cues: Cue[]
  set(change: (c: Cue) => Cue): boolean
}

// Num is a number that all of the cues have, in its place.
export function Num({
  label,
  quantity,
  cues,
  of,
  put,
  scale = 1,
}: {
  label: string
  quantity: Quantity
  cues: Cue[]
  of(c: Cue): number
  put(c: Cue, v: number): Cue
  /** How many of the field's units are one of the document's. */
  scale?: number
}) {
  const take = (values: number[]) =>
    useSession.getState().run(...cues.map((c, i): Command => ({ op: 'setCue', cue: put(c, values[i]! / scale) })))
  return (
    <Field label={label}>
      <NumbersField label={label} quantity={quantity} values={cues.map((c) => of(c) * scale)} onChange={take} />
    </Field>
  )
}

// Line is a short text that stands in one line. onChange returns false when it could not be taken over.
export function Line({
  label,
  value,
  onChange,
  max = 200,
}: {
  label: string
  value: string
  onChange(v: string): boolean
  max?: number
}) {
  const w = useWriting(value, label, onChange)
  return (
    <input
      aria-label={label}
      value={w.text}
      maxLength={max}
      onChange={(e) => w.write(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter') e.currentTarget.blur()
      }}
      onBlur={w.done}
      className="h-7 w-full rounded-md border border-line bg-white px-2 text-[12.5px]"
    />
  )
}

export function Paragraph({
  label,
  value,
  onChange,
  max = 300,
}: {
  label: string
  value: string
  onChange(v: string): boolean
  max?: number
}) {
  const w = useWriting(value, label, onChange)
  return (
    <textarea
      aria-label={label}
      value={w.text}
      rows={3}
      maxLength={max}
      onChange={(e) => w.write(e.target.value)}
      onKeyDown={(e) => e.stopPropagation()}
      onBlur={w.done}
      className="mb-1 w-full resize-none rounded-md border border-line bg-white px-2 py-1 text-[12.5px]"
    />
  )
}
