import { Trash2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Field } from '../inspector/fields'
import { answer, api, words } from '../api/client'
import { newId, sentence } from '../session/actions'
import {
  mechanismWords,
  setCoupling,
  slides,
  unjoint,
  useMechanism,
  type Coupling,
  type Joint,
} from '../session/mechanism'
import { useSession } from '../session/session'
import { Button, IconButton, Select, Tick } from '../ui/controls'
import { JointGlyph } from '../ui/glyphs'
import { NumberField } from '../ui/NumberField'

// Couplings lists what ties a joint to others, and adds to it.
export function Couplings({ joint }: { joint: Joint }) {
  const joints = useSession((s) => s.assembly?.joints) ?? []
  const core = useSession((s) => s.core)
  const couplings = useSession((s) => s.assembly?.couplings)
  const problems = useMechanism((s) => s.now?.problems) ?? []
  const [adding, setAdding] = useState(false)
  const own = useMemo(
    () => (core && couplings ? core.ask('ties', { joint: joint.id }) : []),
    [core, couplings, joint.id],
  )
  const nameOf = (id: string) => joints.find((j) => j.id === id)?.name ?? 'what is gone'
  return (
    <section aria-label="Couplings" className="mt-4 border-t border-line pt-3">
      <h3 className="mb-1 font-semibold">Tied to</h3>
      {own.length === 0 && !adding && (
        <p className="text-[12.5px] text-ink-2">Nothing: it moves by itself, or with the loop that it closes.</p>
      )}
      <ul>
        {own.map((c) => {
          const problem = problems.find((p) => p.of === c.coupling)
          return (
            <li key={c.coupling} className="pb-1 text-[12.5px]">
              <div className="flex items-center gap-2">
                <JointGlyph kind="gear" />
                <span className="min-w-0 grow truncate">
                  {nameOf(c.other)} <span className="text-ink-2">{c.says}</span>
                </span>
                <IconButton
                  label={`Remove the coupling to ${nameOf(c.other)}`}
                  onClick={() => void unjoint(c.coupling)}
                >
                  <Trash2 size={13} />
                </IconButton>
              </div>
              {problem && <p className="pl-6 text-[12px] text-signal-ink">{problem.text}</p>}
            </li>
          )
        })}
      </ul>
      {adding ? (
        <NewCoupling joint={joint} joints={joints} done={() => setAdding(false)} />
      ) : (
        <Button className="mt-1 w-full" disabled={joints.length < 2} onClick={() => setAdding(true)}>
          Tie it to another joint…
        </Button>
      )}
    </section>
  )
}

function NewCoupling({ joint, joints, done }: { joint: Joint; joints: readonly Joint[]; done(): void }) {
  const others = joints.filter((j) => j.id !== joint.id && j.kind !== 'ball')
  const [by, setBy] = useState(others[0]?.id ?? '')
  const [kind, setKind] = useState('gear')
  const [own, setOwn] = useState(20)
  const [other, setOther] = useState(20)
  const [ratio, setRatio] = useState(1)
  const [inner, setInner] = useState(false)
  const [rows, setRows] = useState('0 0\n90 5\n180 10\n270 5\n360 0')
  const [reading, setReading] = useState(false)
  const kinds = mechanismWords()
    .couplings.filter((k) => (slides(joint) ? k.slides : k.turns))
    .map((k) => ({ value: k.kind, text: k.name }))
  const chosen = kinds.some((k) => k.value === kind) ? kind : kinds[0]!.value
  const wheels = chosen === 'gear' || chosen === 'belt'
  // The rows that the outlines of the cam and of what follows it say.
  const readShapes = async () => {
    const { project, tell } = useSession.getState()
    setReading(true)
    try {
      const path = { id: project!.id }
      const query = { joint: joint.id, by }
      const table = await answer(api.GET('/api/projects/{id}/cam', { params: { path, query } }))
      setRows(table.rows.map((row) => row.join(' ')).join('\n'))
    } catch (e) {
      tell(sentence(words(e)))
    } finally {
      setReading(false)
    }
  }
  const add = async () => {
    const { core, tell } = useSession.getState()
    const fields = { joint: joint.id, by, kind: chosen, own, other, ratio, inner, table: rows }
    let coupling: Coupling
    try {
      coupling = core!.ask('newCoupling', { id: newId('coupling'), ...fields })
    } catch (e) {
      return tell(sentence(words(e)))
    }
    const made = await setCoupling(coupling)
    if (made) done()
  }
  return (
    <div role="group" aria-label="A new coupling" className="mt-1 border border-line bg-sheet-2 p-2.5">
      <Field label="To">
        <Select
          label="Joint that it follows"
          value={by}
          options={others.map((j) => ({ value: j.id, text: j.name }))}
          onChange={setBy}
        />
      </Field>
      <Field label="By">
        <Select label="Kind of coupling" value={chosen} options={kinds} onChange={setKind} />
      </Field>
      {wheels && (
        <>
          <Field label={chosen === 'gear' ? 'Teeth' : 'Sizes'}>
            <div className="grid grid-cols-2 gap-1.5">
              <NumberField label={`Size of ${joint.name}`} quantity="plain" value={own} onChange={setOwn} />
              <NumberField label="Size of the other" quantity="plain" value={other} onChange={setOther} />
            </div>
          </Field>
          <Tick on={inner} onChange={setInner}>
            {chosen === 'gear' ? 'One has its teeth inside' : 'The belt is crossed'}
          </Tick>
        </>
      )}
      {chosen === 'rack' && (
        <Field label="Pinion Ø">
          <NumberField label="Pitch diameter of the pinion" quantity="length" value={other} onChange={setOther} />
        </Field>
      )}
      {chosen === 'cam' && (
        <>
          <p className="text-[12px] text-ink-2">
            A row for each value of the other joint, and the one of this: both from rest, the first growing.
          </p>
          <Button className="mt-1 w-full" disabled={!by || reading} onClick={() => void readShapes()}>
            {reading ? 'Reading the outlines…' : 'Read it from the shapes'}
          </Button>
          <textarea
            aria-label="Table of the cam"
            value={rows}
            rows={5}
            onChange={(e) => setRows(e.target.value)}
            onKeyDown={(e) => e.stopPropagation()}
            className="mono mt-1.5 w-full resize-none rounded-md border border-line bg-white px-2 py-1 text-[12px]"
          />
        </>
      )}
      {(chosen === 'screw' || chosen === 'ratio') && (
        <Field label={chosen === 'screw' ? 'Lead' : 'Times'}>
          <NumberField
            label={chosen === 'screw' ? 'Lead of the spindle' : 'Ratio'}
            quantity={chosen === 'screw' ? 'length' : 'plain'}
            value={ratio}
            onChange={setRatio}
          />
        </Field>
      )}
      <div className="mt-1.5 flex gap-1.5">
        <Button kind="strong" className="grow" disabled={!by} onClick={() => void add()}>
          Tie them
        </Button>
        <Button onClick={done}>Leave it</Button>
      </div>
    </div>
  )
}
