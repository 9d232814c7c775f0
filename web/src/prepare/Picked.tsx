import { useMemo, useState } from 'react'
import type { Schemas } from '../api/client'
import type { PickRule } from '../core/core'
import { markedBelow } from '../core/tree'
import { grouped } from '../core/written'
import { pickBy } from '../session/picking'
import { labelOf, namesOf, nodeById, useSession } from '../session/session'
import { vary } from '../session/variants'
import { InVariant } from './InVariant'
import { hexOf } from '../ui/colour'
import { Button, Menu, Select } from '../ui/controls'
import { useWriting } from '../session/writing'

// Picked says what is known of the picked parts and what can be done with them.
export function Picked({ ids }: { ids: string[] }) {
  const assembly = useSession((s) => s.assembly)!
  const survey = useSession((s) => s.survey)
  const node = nodeById(assembly).get(ids[0]!)
  if (!node) return null
  const facts = survey && node.shape >= 0 ? survey.shapes[node.shape] : undefined
  return (
    <>
      {ids.length === 1 ? (
        <>
          <h2 className="sr-only">{node.name}</h2>
          <Name key={node.id} id={node.id} name={node.name} />
        </>
      ) : (
        <h2 className="serif text-[20px] leading-tight font-semibold">{namesOf(assembly, ids)}</h2>
      )}
      {ids.length === 1 && node.shape >= 0 && <Measures node={node} facts={facts} />}
      {ids.length === 1 && facts?.fastener && <Fastener guess={facts.fastener} />}
      <InVariant ids={ids} node={node} />
      <Rules />
      <Arrange ids={ids} node={node} />
      <Finishes ids={ids} />
      <Hazard ids={ids} />
      {ids.length === 1 && survey && <Contacts id={ids[0]!} survey={survey} />}
    </>
  )
}

function Name({ id, name }: { id: string; name: string }) {
  const w = useWriting(name, 'The name', (v) => {
    const { variant, arrange } = useSession.getState()
    if (v) void (variant ? vary({ do: 'callIn', node: id, name: v }) : arrange({ do: 'rename', node: id, name: v }))
    return true
  })
  return (
    <input
      aria-label="Name of the part"
      value={w.text}
      maxLength={200}
      onChange={(e) => w.write(e.target.value)}
      onBlur={w.done}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter') e.currentTarget.blur()
        if (e.key === 'Escape') {
          w.forget()
          e.currentTarget.blur()
        }
      }}
      className="serif -mx-1.5 w-[calc(100%+12px)] rounded-md border border-transparent bg-transparent px-1.5 text-[20px] leading-tight font-semibold hover:border-line focus:bg-white"
    />
  )
}

function Measures({ node, facts }: { node: Schemas['Node']; facts: Schemas['Facts'] | undefined }) {
  const assembly = useSession((s) => s.assembly)!
  const shape = assembly.shapes[node.shape]!
  return (
    <dl className="mt-2 grid grid-cols-[auto_1fr] gap-x-3 gap-y-1 text-[12.5px]">
      <dt className="text-ink-2">Size</dt>
      <dd className="mono text-right text-[12px]">
        {shape.max.map((v, i) => grouped(v - shape.min[i]!)).join(' × ')} mm
      </dd>
      {facts && (
        <>
          <dt className="text-ink-2">Volume</dt>
          <dd className="mono text-right text-[12px]">
            {facts.closed ? `${grouped(facts.volume / 1000, 2)} cm³` : 'open surface'}
          </dd>
          <dt className="text-ink-2">Surface</dt>
          <dd className="mono text-right text-[12px]">{grouped(facts.area / 100, 2)} cm²</dd>
        </>
      )}
      <dt className="text-ink-2">Triangles</dt>
      <dd className="mono text-right text-[12px]">{shape.triangles.toLocaleString('en')}</dd>
      <dt className="text-ink-2">Finish</dt>
      <dd className="truncate text-right">
        {[...new Set((node.finishes ?? []).map((f) => assembly.finishes[f]?.name))].join(', ')}
      </dd>
    </dl>
  )
}

function Fastener({ guess: g }: { guess: Schemas['Guess'] }) {
  return (
    <div className="mt-3 bg-advice-soft px-3 py-2 text-[12.5px] text-advice">
      <b className="font-semibold">
        Seems to be a {g.kind}
        {g.size && ` ${g.size}`}
      </b>
      , {Math.round(g.confidence * 100)} % sure
      <p className="mt-0.5">
        {g.why}.{g.lead ? ` It comes out ${g.lead} mm a turn.` : ''}
      </p>
    </div>
  )
}

const rules: readonly { rule: PickRule; text: string }[] = [
  { rule: 'like', text: 'All like this' },
  { rule: 'fasteners', text: 'What holds it' },
  { rule: 'neighbours', text: 'What it touches' },
  { rule: 'inside', text: 'Inside its box' },
]

function Rules() {
  const known = useSession((s) => s.survey !== null)
  return (
    <section className="mt-4 border-t border-line pt-3">
      <h3 className="mb-1.5 font-semibold">Pick from here</h3>
      <div className="grid grid-cols-2 gap-1.5">
        {rules.map((r) => (
          <Button key={r.rule} disabled={!known} onClick={() => pickBy(r.rule)}>
            {r.text}
          </Button>
        ))}
      </div>
      {!known && (
        <p role="status" className="mt-1 text-[12px] text-ink-2">
          The parts are still being looked at.
        </p>
      )}
    </section>
  )
}

function Arrange({ ids, node }: { ids: string[]; node: Schemas['Node'] }) {
  const assembly = useSession((s) => s.assembly)!
  const { arrange, select } = useSession.getState()
  const [naming, setNaming] = useState<'group' | 'set' | null>(null)
  const groups = useMemo(() => assembly.nodes.filter((n) => n.shape < 0 && !ids.includes(n.id)), [assembly, ids])
  const group = node.shape < 0 && node.parent >= 0
  const done = (name: string) => {
    setNaming(null)
    if (!name) return
    if (naming === 'set') void arrange({ do: 'addSet', set: { id: crypto.randomUUID().slice(0, 8), name, nodes: ids } })
    else void arrange({ do: 'group', nodes: ids, name })
  }
  return (
    <section className="mt-4 border-t border-line pt-3">
      <h3 className="mb-1.5 font-semibold">Arrange</h3>
      {naming ? (
        <input
          autoFocus
          aria-label={naming === 'set' ? 'Name of the set' : 'Name of the group'}
          placeholder={naming === 'set' ? 'Name of the set' : 'Name of the group'}
          maxLength={200}
          onKeyDown={(e) => {
            e.stopPropagation()
            if (e.key === 'Enter') done(e.currentTarget.value.trim())
            if (e.key === 'Escape') setNaming(null)
          }}
          onBlur={() => setNaming(null)}
          className="h-7 w-full rounded-md border border-line bg-white px-2"
        />
      ) : (
        <div className="grid grid-cols-2 gap-1.5">
          <Button onClick={() => setNaming('set')}>Keep as a set…</Button>
          <Button onClick={() => setNaming('group')}>Group…</Button>
          <Menu
            label="Move into"
            actions={groups
              .slice(0, 40)
              .map((g) => ({ text: g.name, run: () => void arrange({ do: 'move', nodes: ids, parent: g.id }) }))}
          >
            <Button>Move into…</Button>
          </Menu>
          {group && ids.length === 1 ? (
            <Button onClick={() => void arrange({ do: 'flatten', node: node.id }).then((ok) => ok && select({}))}>
              Ungroup
            </Button>
          ) : (
            <Button
              disabled={ids.length !== 1 || node.shape < 0}
              onClick={() => void arrange({ do: 'split', node: node.id })}
            >
              Split into bodies
            </Button>
          )}
        </div>
      )}
    </section>
  )
}

// Hazard says what has to be minded when the picked parts are taken off: a planned teardown warns of it.
function Hazard({ ids }: { ids: string[] }) {
  const core = useSession((s) => s.core)
  const said = useSession((s) => s.assembly!.hazards)
  const { arrange } = useSession.getState()
  const kinds = useMemo(() => core?.ask('hazards') ?? [], [core])
  const own = [...new Set(ids.map((id) => said?.find((h) => h.node === id)?.hazard ?? 'nothing'))]
  const options = [
    { value: 'nothing', text: 'Nothing' },
    ...kinds.map((k) => ({ value: k.hazard, text: k.name })),
    ...(own.length > 1 ? [{ value: 'several', text: 'Not the same for all' }] : []),
  ]
  return (
    <section className="mt-4 border-t border-line pt-3">
      <h3 className="mb-1.5 font-semibold">To be minded</h3>
      <Select
        label="To be minded when it is taken off"
        value={own.length > 1 ? 'several' : own[0]!}
        options={options}
        onChange={(hazard) => {
          if (hazard !== 'several')
            void arrange({ do: 'mind', nodes: ids, hazard: hazard === 'nothing' ? undefined : hazard })
        }}
        className="w-full"
      />
      {own.some((h) => h !== 'nothing') && (
        <p className="mt-1 text-[12px] text-ink-2">A planned teardown gives its step a notice.</p>
      )}
    </section>
  )
}

function Finishes({ ids }: { ids: string[] }) {
  const core = useSession((s) => s.core)
  const assembly = useSession((s) => s.assembly)!
  // What all of the picked parts wear, those below a group too.
  const worn = useMemo(() => {
    const inside = markedBelow(assembly.nodes, new Set(ids))
    return [
      ...new Set(
        assembly.nodes.flatMap((n, i) =>
          inside[i] ? (n.finishes ?? []).map((f) => assembly.finishes[f]?.name ?? '') : [],
        ),
      ),
    ].filter(Boolean)
  }, [assembly, ids])
  const library = useMemo(() => core?.ask('finishes') ?? [], [core])
  return (
    <section className="mt-4 border-t border-line pt-3">
      <div className="mb-1.5 flex items-baseline justify-between gap-2">
        <h3 className="font-semibold">Finish</h3>
        <span className="truncate text-[12px] text-ink-2" title={worn.join(', ')}>
          {worn.length === 1 ? worn[0] : worn.length > 1 ? `${worn.length} of them: ${worn.join(', ')}` : ''}
        </span>
      </div>
      <div className="grid grid-cols-9 gap-1">
        {library.map((f) => (
          <button
            key={f.name}
            type="button"
            title={f.name}
            aria-label={f.name}
            aria-pressed={worn.includes(f.name)}
            onClick={() => {
              const { variant, arrange } = useSession.getState()
              void (variant
                ? vary({ do: 'wearIn', nodes: ids, finish: f })
                : arrange({ do: 'wear', nodes: ids, finish: f }))
            }}
            className="aspect-square rounded-full border border-ink/25 hover:border-ink aria-pressed:outline-2 aria-pressed:outline-offset-1 aria-pressed:outline-ink"
            style={{ background: swatch(f) }}
          />
        ))}
      </div>
    </section>
  )
}

// swatch is a finish as a small ball: its colour, brighter where it is smooth,
// paper showing through where it is clear.
function swatch(f: Schemas['Finish']): string {
  const shine = `rgb(255 255 255 / ${0.75 - 0.7 * f.roughness})`
  return `radial-gradient(circle at 34% 28%, ${shine}, transparent ${18 + 40 * f.roughness}%), ${hexOf(f.colour)}${Math.round(255 * Math.max(f.opacity, 0.25)).toString(16)}`
}

function Contacts({ id, survey }: { id: string; survey: Schemas['Survey'] }) {
  const assembly = useSession((s) => s.assembly)!
  const touching = survey.contacts
    .filter((c) => c.a === id || c.b === id)
    .map((c) => ({ ...c, other: c.a === id ? c.b : c.a }))
    .sort((x, y) => y.area - x.area)
  if (touching.length === 0) return null
  return (
    <section className="mt-4 border-t border-line pt-3">
      <h3 className="mb-1 font-semibold">Touches</h3>
      <ul className="text-[12.5px]">
        {touching.slice(0, 12).map((c) => (
          <li key={c.other}>
            <button
              type="button"
              onClick={() => useSession.getState().select({ nodes: [c.other] })}
              onPointerEnter={() => useSession.getState().setHover(c.other)}
              onPointerLeave={() => useSession.getState().setHover(null)}
              className="flex min-h-6 w-full items-baseline gap-2 rounded-[3px] px-1 py-0.5 text-left hover:bg-sheet-2"
            >
              <span className="grow truncate" title={labelOf(assembly, c.other)}>
                {labelOf(assembly, c.other)}
              </span>
              <span className="mono shrink-0 text-[11.5px] text-ink-2">
                {c.crossing ? 'goes through' : c.area > 0.5 ? `${grouped(c.area, 0)} mm²` : `gap ${grouped(c.gap, 2)}`}
              </span>
            </button>
          </li>
        ))}
        {touching.length > 12 && <li className="px-1 text-ink-2">and {touching.length - 12} more</li>}
      </ul>
    </section>
  )
}
