import { PartsTree } from '../parts/PartsTree'
import { namesOf, nodeById, useSession } from '../session/session'
import { StageView } from '../stage/StageView'

// Prepare: what has arrived, as a tree and on the stage.
export function Prepare() {
  const report = useSession((s) => s.report)
  const assembly = useSession((s) => s.assembly)
  const file = useSession((s) => s.fileName)
  const nodes = useSession((s) => s.selection.nodes)
  if (!report || !assembly) return null
  return (
    <div className="grid h-full min-h-0 grid-cols-[300px_minmax(0,1fr)_280px]">
      <div className="min-h-0 border-r border-line bg-sheet"><PartsTree /></div>
      <StageView rest />
      <aside aria-label="What has arrived" className="scroll min-h-0 border-l border-line bg-sheet px-5 py-4">
        <h2 className="serif text-[20px] leading-tight font-semibold">What has arrived</h2>
        <p className="mt-1 mb-4 text-ink-2">From <span className="mono text-[12px]">{file}</span>, {report.format}</p>
        <dl className="grid grid-cols-[1fr_auto] gap-y-1.5">
          <Figure name="Parts" value={report.parts} />
          <Figure name="Different shapes" value={report.shapes} />
          <Figure name="Triangles" value={report.triangles} />
          <Figure name="Finishes" value={assembly.finishes.length} />
        </dl>
        <p className="mt-3 text-[12.5px] text-ink-2">Unit of the file: {report.unit}. Here everything is in millimetres.</p>
        <List title="Put right" items={report.repaired} none="Nothing had to be put right." />
        <List title="Not taken over" items={report.ignored} none="Everything was understood." />
        {nodes.length > 0 && <Picked id={nodes[0]!} ids={nodes} />}
      </aside>
    </div>
  )
}

function Picked({ id, ids }: { id: string; ids: string[] }) {
  const assembly = useSession((s) => s.assembly)!
  const node = nodeById(assembly).get(id)
  const shape = node && node.shape >= 0 ? assembly.shapes[node.shape] : undefined
  const alike = shape ? assembly.nodes.filter((n) => n.shape === node!.shape).map((n) => n.id) : []
  return (
    <section className="mt-5 border-t border-line pt-4">
      <h3 className="mb-2 font-semibold">{namesOf(assembly, ids)}</h3>
      {shape && ids.length === 1 && (
        <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-1.5 text-[12.5px]">
          <dt className="text-ink-2">Size</dt><dd className="mono text-right text-[12px]">{shape.max.map((v, i) => Number((v - shape.min[i]!).toFixed(1))).join(' × ')} mm</dd>
          <dt className="text-ink-2">Triangles</dt><dd className="mono text-right text-[12px]">{shape.triangles.toLocaleString('en')}</dd>
          <dt className="text-ink-2">Finish</dt><dd className="text-right">{(node!.finishes ?? []).map((f) => assembly.finishes[f]?.name).join(', ')}</dd>
        </dl>
      )}
      {alike.length > 1 && (
        <button type="button" onClick={() => useSession.getState().select({ nodes: alike })} className="mt-2 text-advice underline underline-offset-2 hover:text-ink">Pick all {alike.length} with this shape</button>
      )}
    </section>
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
      {items.length === 0 ? <p className="text-[12.5px] text-ink-2">{none}</p> : <ul className="mt-1 list-disc space-y-1 pl-4 text-[12.5px]">{items.map((x, i) => <li key={i}>{x}</li>)}</ul>}
    </section>
  )
}
