import { useQueryClient } from '@tanstack/react-query'
import clsx from 'clsx'
import { Check, Minus, RotateCw, X } from 'lucide-react'
import { useState } from 'react'
import type { Output } from '../api/client'
import { useSession } from '../session/session'
import { useVariants, type Variant } from '../session/variants'
import { Button } from '../ui/controls'
import { order, titleOf, type Settings } from './settings'

interface Made {
  key: string
  text: string
  settings: Settings
  /** The newest output in each variant. */
  in: Map<string, Output>
}

// Matrix is what has been made of the reveal against the product's variants: what is there, out of date, or missing.
export function Matrix({ outputs }: { outputs: readonly Output[] }) {
  const list = useVariants()
  const revealId = useSession((s) => s.revealId)
  const client = useQueryClient()
  const [busy, setBusy] = useState(false)
  if (list.length === 0) return null
  const rows = rowsOf(
    outputs.filter((o) => o.revealId === revealId && o.state !== 'cancelled'),
    list,
  )
  if (rows.length === 0) return null
  const columns = [...list.map((v) => ({ id: v.id, text: v.name })), { id: '-', text: 'All parts' }].filter(
    (c) => c.id !== '-' || rows.some((r) => r.in.has('-')),
  )
  const lacks = (r: Made, id: string) => {
    const o = r.in.get(id)
    return !o || o.state === 'failed' || (o.state === 'done' && o.behind !== '')
  }
  const make = async (wanted: readonly Settings[]) => {
    setBusy(true)
    const wrong = await order(wanted)
    if (wrong) useSession.getState().tell(wrong)
    await client.invalidateQueries({ queryKey: ['outputs'] })
    setBusy(false)
  }
  const due = rows.flatMap((r) => columns.filter((c) => lacks(r, c.id)).map((c) => one(r, c.id)))
  return (
    <section aria-label="Outputs by variant" className="mb-5 max-w-[1100px]">
      <div className="scroll overflow-x-auto">
        <table className="text-[12.5px]">
          <thead>
            <tr>
              <th scope="col" className="pr-6 text-left text-[12px] font-normal text-ink-2">
                By variant
              </th>
              {columns.map((c) => (
                <th key={c.id} scope="col" className="px-3 py-1 text-center text-[12px] font-normal text-ink-2">
                  {c.text}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.key} className="border-t border-hair">
                <th scope="row" className="max-w-[300px] truncate py-1 pr-6 text-left font-normal" title={r.text}>
                  {r.text}
                </th>
                {columns.map((c) => (
                  <td key={c.id} className="px-1 text-center">
                    <Cell
                      output={r.in.get(c.id)}
                      says={`${r.text}, ${c.text}`}
                      busy={busy}
                      onMake={() => void make([one(r, c.id)])}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {due.length > 1 && (
        <Button className="mt-2" disabled={busy} onClick={() => void make(due)}>
          Make the {due.length} that are missing or out of date
        </Button>
      )}
    </section>
  )
}

function Cell({
  output: o,
  says,
  busy,
  onMake,
}: {
  output: Output | undefined
  says: string
  busy: boolean
  onMake(): void
}) {
  const behind = o?.state === 'done' && o.behind !== ''
  const state = !o
    ? 'not made'
    : behind
      ? 'out of date'
      : o.state === 'done'
        ? `made of version ${o.version}`
        : o.state === 'failed'
          ? 'failed'
          : 'on the way'
  const fresh = o && !behind && o.state !== 'failed'
  return (
    <button
      type="button"
      disabled={busy || fresh}
      aria-label={`${says}: ${state}${fresh ? '' : '. Make it'}`}
      title={fresh ? state : `${state}: make it`}
      onClick={onMake}
      className={clsx(
        'mx-auto grid h-7 w-full min-w-10 place-items-center rounded-[3px] enabled:hover:bg-white',
        behind || o?.state === 'failed' ? 'text-signal-ink' : o ? 'text-ink' : 'text-ink-3',
      )}
    >
      {!o ? (
        <Minus size={14} />
      ) : behind ? (
        <RotateCw size={14} />
      ) : o.state === 'done' ? (
        <Check size={14} />
      ) : o.state === 'failed' ? (
        <X size={14} />
      ) : (
        '…'
      )}
    </button>
  )
}

// rowsOf gathers outputs that are the same but for their variant. A name that one of them was given is that of all; where
// it says the variant, each says its own.
export function rowsOf(outputs: readonly Output[], variants: readonly Variant[]): Made[] {
  const rows = new Map<string, Made>()
  for (const o of outputs) {
    const of = o.settings as Settings
    const rest: Settings = { ...of, variant: undefined, name: undefined }
    const key = JSON.stringify(rest)
    const row = rows.get(key) ?? { key, text: textOf(rest), settings: rest, in: new Map<string, Output>() }
    const id = of.variant ?? '-'
    const called = variants.find((v) => v.id === id)?.name
    if (of.name && called && of.name.includes(called)) row.settings.name = of.name.replaceAll(called, '{variant}')
    else row.settings.name ??= of.name
    if (!row.in.has(id)) row.in.set(id, o) // the newest comes first
    rows.set(key, row)
  }
  return [...rows.values()]
}

const textOf = (s: Settings) =>
  [titleOf(s), s.width && s.kind === 'film' ? `${s.width} × ${s.height}` : '', s.purpose === 'draft' ? 'draft' : '']
    .filter(Boolean)
    .join(', ')

const one = (r: Made, variant: string): Settings => ({ ...r.settings, variant })
