// Pictures of the author's in place of those that a manual draws of steps.
import { useState } from 'react'
import type { Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Select } from '../ui/controls'
import { Attached } from './Attached'
import { Row } from './fields'

type Pictures = Schemas['ManualSettings']['pictures']

/** OwnPictures asks which step has a picture of its own, and which. */
export function OwnPictures({ pictures, onChange }: { pictures: Pictures; onChange(p: Pictures): void }) {
  const steps = useSession((x) => x.doc?.steps) ?? []
  const [chosen, setChosen] = useState<string | null>(null)
  const told = steps.filter((s) => !s.muted)
  const step = told.find((s) => s.id === chosen) ?? told[0]
  if (!step) return null
  const own = told.filter((s) => (pictures?.[s.id] ?? []).length > 0)
  const put = (id: string | undefined) => {
    const others = Object.entries(pictures ?? {}).filter(([of]) => of !== step.id)
    const next = id ? [...others, [step.id, [id]]] : others
    onChange(next.length > 0 ? (Object.fromEntries(next) as Pictures) : undefined)
  }
  return (
    <>
      <Row
        label="A step’s own picture"
        hint={own.length > 0 ? (own.length === 1 ? '1 step has one' : `${own.length} steps have one`) : undefined}
      >
        <Select
          label="Step with a picture of its own"
          value={step.id}
          className="w-full"
          onChange={setChosen}
          options={told.map((s, i) => ({
            value: s.id,
            text: `${i + 1}  ${s.title}${(pictures?.[s.id] ?? []).length > 0 ? ' ●' : ''}`,
          }))}
        />
      </Row>
      <Attached
        kind="picture"
        row="In place of the drawn ones"
        id={pictures?.[step.id]?.[0]}
        onChange={(a) => put(a?.id)}
      />
    </>
  )
}
