import { useEffect, useMemo, useRef, useState } from 'react'
import type { Item } from './data'
import type { Player } from './player'

const names = { designation: 'Reference', finish: 'Finish', mass: 'Mass, g', remark: 'Remark' } as const

// Parts is the parts list: what is chosen here is marked in the picture, what is touched there is chosen here.
export function Parts({ player, pick }: { player: Player; pick: string | null }) {
  const { items, fields, assembly } = player.told
  const [search, setSearch] = useState('')
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set())
  const [clear, setClear] = useState<ReadonlySet<string>>(new Set())
  const row = useRef<HTMLTableRowElement>(null)
  const at = useMemo(() => new Map(items.flatMap((it) => it.parts.map((p) => [p, it] as const))), [items])
  const chosen = pick ? (at.get(pick) ?? null) : null
  const found = items.filter((it) =>
    [it.name, it.designation, it.finish, String(it.item)].some((t) => t?.toLowerCase().includes(search.toLowerCase())),
  )
  useEffect(() => void row.current?.scrollIntoView({ block: 'nearest' }), [chosen])
  const all = useMemo(() => assembly.nodes.filter((n) => n.shape >= 0).map((n) => n.id), [assembly])

  const hide = (nodes: ReadonlySet<string>) => {
    setHidden(nodes)
    player.setHidden(nodes)
  }
  const see = (nodes: ReadonlySet<string>) => {
    setClear(nodes)
    player.setClear(nodes)
  }
  const toggled = (set: ReadonlySet<string>, it: Item) => {
    const next = new Set(set)
    const had = it.parts.every((p) => next.has(p))
    for (const p of it.parts)
      if (had) next.delete(p)
      else next.add(p)
    return next
  }
  const choose = (it: Item) => player.pick(it === chosen ? null : it.parts[0]!, it === chosen ? [] : it.parts)

  return (
    <aside className="parts" aria-label="Parts">
      <div className="find">
        <input
          type="search"
          placeholder="Find a part"
          aria-label="Find a part"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        <button
          type="button"
          disabled={hidden.size === 0 && clear.size === 0}
          onClick={() => {
            hide(new Set())
            see(new Set())
          }}
        >
          Show all
        </button>
      </div>
      <div className="acts" role="group" aria-label={chosen ? `With ${chosen.name}` : 'With the chosen part'}>
        <button type="button" disabled={!chosen} onClick={() => hide(toggled(hidden, chosen!))}>
          {chosen?.parts.every((p) => hidden.has(p)) ? 'Show' : 'Hide'}
        </button>
        <button type="button" disabled={!chosen} onClick={() => see(toggled(clear, chosen!))}>
          {chosen?.parts.every((p) => clear.has(p)) ? 'Solid' : 'See through'}
        </button>
        <button
          type="button"
          disabled={!chosen}
          onClick={() => hide(new Set(all.filter((id) => !chosen!.parts.includes(id))))}
        >
          Only this
        </button>
        <button type="button" disabled={!chosen} onClick={() => player.look(null, chosen!.parts)}>
          Look at it
        </button>
      </div>
      <div className="list" role="region" aria-label="Parts list" tabIndex={0}>
        <table>
          <thead>
            <tr>
              <th scope="col">No.</th>
              <th scope="col">Qty</th>
              <th scope="col">Name</th>
              {fields.map((f) => (
                <th key={f} scope="col">
                  {names[f]}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {found.map((it) => (
              <tr
                key={it.item}
                ref={it === chosen ? row : undefined}
                aria-selected={it === chosen}
                className={it.parts.every((p) => hidden.has(p)) ? 'hidden' : undefined}
                onClick={() => choose(it)}
              >
                <td>{it.item}</td>
                <td>{it.quantity}</td>
                <td>
                  <button
                    type="button"
                    aria-pressed={it === chosen}
                    onClick={(e) => {
                      e.stopPropagation()
                      choose(it)
                    }}
                  >
                    {it.name}
                  </button>
                </td>
                {fields.map((f) => (
                  <td key={f}>{f === 'mass' ? it.mass?.toPrecision(3) : it[f]}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {found.length === 0 && <p className="none">No part is called “{search}”.</p>}
      </div>
    </aside>
  )
}
