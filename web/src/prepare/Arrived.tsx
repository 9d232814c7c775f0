import { useState } from 'react'
import { answer, api, words, type Schemas } from '../api/client'
import { useImports } from '../phases/Imports'
import { FirstFilm } from '../plan/FirstFilm'
import { across } from '../core/written'
import { useSession } from '../session/session'
import { Button, Choice, Select } from '../ui/controls'
import { Changes, NewRevision } from './Revision'

const units = [
  { value: 'own', text: 'as the file says' },
  { value: 'mm', text: 'millimetre' },
  { value: 'cm', text: 'centimetre' },
  { value: 'm', text: 'metre' },
  { value: 'in', text: 'inch' },
  { value: 'ft', text: 'foot' },
  { value: 'µm', text: 'micrometre' },
] as const
const ups = [
  { value: 'own', text: 'As in the file' },
  { value: 'y', text: '+Y' },
  { value: 'z', text: '+Z' },
] as const
const details = [
  { value: 'coarse', text: 'Coarse' },
  { value: 'normal', text: 'Normal' },
  { value: 'fine', text: 'Fine' },
] as const

// Arrived is the import's report, and the place to have the files read in
// another way.
export function Arrived() {
  const report = useSession((s) => s.report)
  const file = useSession((s) => s.fileName)
  if (!report) return null
  return (
    <>
      <h2 className="serif text-[20px] leading-tight font-semibold">What was imported</h2>
      <p className="mt-1 mb-4 text-ink-2">
        From <span className="mono text-[12px]">{file}</span>, {report.format}
      </p>
      <dl className="grid grid-cols-[1fr_auto] gap-y-1.5">
        <Figure name="Parts" value={report.parts} />
        <Figure name="Different shapes" value={report.shapes} />
        <Figure name="Triangles" value={report.triangles} />
        <Figure name="Colours" value={report.colours} />
      </dl>
      <dl className="mt-3 grid grid-cols-[auto_1fr] gap-x-3 gap-y-1 text-[12.5px]">
        <dt className="text-ink-2">Unit</dt>
        <dd className={report.unitGuessed ? 'text-signal-ink' : ''}>{report.unit}</dd>
        <dt className="text-ink-2">Up</dt>
        <dd>{report.up}</dd>
        {report.detail && (
          <>
            <dt className="text-ink-2">Triangles</dt>
            <dd>{report.detail}</dd>
          </>
        )}
      </dl>
      {report.doubt && <Doubtful doubt={report.doubt} />}
      {report.variants && <List title="Variants, each from its file" items={report.variants} none="" />}
      {report.changes && <Changes changes={report.changes} />}
      {report.parts > 1 && <FirstFilm />}
      <NewRevision />
      <Reread />
      <List title="Repaired" items={report.repaired} none="Nothing had to be repaired." />
      <List title="Not imported" items={report.ignored} none="Everything was imported." />
    </>
  )
}

// Doubtful asks about an unlikely size, with the reading that makes sense.
function Doubtful({ doubt }: { doubt: NonNullable<Schemas['Report']['doubt']> }) {
  const project = useSession((s) => s.project?.id)
  const kept = useSession((s) => s.importId !== null)
  const [asked, setAsked] = useState(false)
  const unit = units.find((u) => u.value === doubt.unit)?.text
  const again = async () => {
    setAsked(true)
    try {
      await answer(
        api.POST('/api/projects/{id}/imports', { params: { path: { id: project! } }, body: { unit: doubt.unit } }),
      )
    } catch (e) {
      setAsked(false)
      useSession.getState().tell(words(e))
    }
  }
  return (
    <div role="note" className="mt-3 border-l-4 border-advice bg-advice-soft px-3 py-2 text-[12.5px]">
      <p>
        It is {across(doubt.size)} across, which is unusual.
        {unit && ` ${across(doubt.likely!)} if the file means ${unit}s.`}
      </p>
      {unit && kept && (
        <Button className="mt-1.5" disabled={asked} onClick={() => void again()}>
          {asked ? 'Reading it again…' : `Read it again in ${unit}s`}
        </Button>
      )}
    </div>
  )
}

function Reread() {
  const project = useSession((s) => s.project?.id)
  const kept = useSession((s) => s.importId !== null)
  const exact = useSession((s) => Boolean(s.report?.detail))
  const imports = useImports()
  const [open, setOpen] = useState(false)
  const [unit, setUnit] = useState('own')
  const [up, setUp] = useState('own')
  const [detail, setDetail] = useState('normal')
  const [asked, setAsked] = useState<string | null>(null)
  const now = imports.data?.find((i) => i.id === asked)
  const busy = now !== undefined && (now.state === 'waiting' || now.state === 'running')
  if (!kept) return null
  if (!open)
    return (
      <Button className="mt-3" onClick={() => setOpen(true)}>
        Read the file in another way…
      </Button>
    )
  const go = async () => {
    try {
      const body = {
        unit: unit === 'own' ? undefined : unit,
        up: up === 'own' ? undefined : up,
        detail: exact ? detail : undefined,
      }
      setAsked((await answer(api.POST('/api/projects/{id}/imports', { params: { path: { id: project! } }, body }))).id)
      await imports.refetch()
    } catch (e) {
      useSession.getState().tell(words(e))
    }
  }
  return (
    <div className="mt-3 space-y-2 border border-line bg-sheet-2 p-3">
      <Row label="Unit">
        <Select label="Unit of the file" value={unit} onChange={setUnit} options={units} className="w-full" />
      </Row>
      <Row label="Up">
        <Choice label="Axis that points up" value={up} onChange={setUp} options={ups} className="w-full" />
      </Row>
      {exact && (
        <Row label="Detail">
          <Choice label="Detail" value={detail} onChange={setDetail} options={details} className="w-full" />
        </Row>
      )}
      <div className="flex gap-2 pt-1">
        <Button kind="strong" className="grow" disabled={busy} onClick={() => void go()}>
          {busy ? `Reading, ${Math.round(now.share * 100)} %` : 'Read again'}
        </Button>
        <Button onClick={() => setOpen(false)}>Leave it</Button>
      </div>
      {now?.message && (
        <p role="alert" className="text-[12.5px] text-signal-ink">
          {now.message}
        </p>
      )}
    </div>
  )
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[52px_1fr] items-center gap-2">
      <span className="text-[12.5px] text-ink-2">{label}</span>
      {children}
    </div>
  )
}

function Figure({ name, value }: { name: string; value: number }) {
  return (
    <>
      <dt className="border-b border-hair pb-1.5 text-ink-2">{name}</dt>
      <dd className="mono border-b border-hair pb-1.5 text-right">{value.toLocaleString('en')}</dd>
    </>
  )
}

function List({ title, items, none }: { title: string; items: readonly string[]; none: string }) {
  return (
    <section className="mt-5">
      <h3 className="font-semibold">{title}</h3>
      {items.length === 0 ? (
        <p className="text-[12.5px] text-ink-2">{none}</p>
      ) : (
        <ul className="mt-1 list-disc space-y-1 pl-4 text-[12.5px]">
          {items.map((x, i) => (
            <li key={i}>{x}</li>
          ))}
        </ul>
      )}
    </section>
  )
}
