import { useMemo } from 'react'
import type { Cue } from '../api/client'
import { namesOf, useSession } from '../session/session'
import { Select } from '../ui/controls'
import { Field, type SettingsProps } from './fields'

const ways = [
  { value: 'stays', text: 'goes on with it' },
  { value: 'stops', text: 'stops' },
  { value: 'coasts', text: 'coasts to a stop' },
  { value: 'runs', text: 'runs on by itself' },
] as const

// Leaves says what a part that is driven does when it is moved away: it goes on with what drives it, or leaves that.
export function Leaves({ cue, set }: { cue: Cue; set: SettingsProps['set'] }) {
  const core = useSession((s) => s.core)!
  const doc = useSession((s) => s.doc)
  const assembly = useSession((s) => s.assembly)
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const chain = useMemo(() => core.ask('leaving', { cue: cue.id }), [core, cue.id, doc])
  if (!chain.inChain && !cue.leaves) return null
  return (
    <>
      <Field label="What turns">
        <Select
          label="What becomes of what is driven"
          value={(cue.leaves ?? 'stays') as (typeof ways)[number]['value']}
          options={ways}
          onChange={(v) => set((c) => ({ ...c, leaves: v === 'stays' ? undefined : v }))}
        />
      </Field>
      {chain.stopped.length > 0 && (
        <p
          className="mb-1 text-[12px] text-ink-2"
          title={chain.stopped.map((id) => namesOf(assembly, [id])).join(', ')}
        >
          It leaves what drives it: {namesOf(assembly, chain.stopped)} stand{chain.stopped.length === 1 ? 's' : ''}{' '}
          still from then on.
        </p>
      )}
    </>
  )
}
