import clsx from 'clsx'
import { Check, Ellipsis, Minus, Plus, Replace } from 'lucide-react'
import { useMemo, useState } from 'react'
import type { Difference } from '../core/core'
import { labelOf, nodeById, useSession } from '../session/session'
import { addVariant, useVariants, type Variant } from '../session/variants'
import { Button, IconButton, Menu } from '../ui/controls'

// Variants lists the configurations of the product, and what is otherwise in which of them.
export function Variants() {
  const list = useVariants()
  const shown = useSession((s) => s.variant)
  const core = useSession((s) => s.core)!
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const table = useMemo(() => core.ask('differences'), [core, list]) // the core has them as the page does
  const { showVariant } = useSession.getState()
  return (
    <>
      <Button className="mb-1.5 w-full" onClick={() => void addVariant()}>
        <Plus size={13} /> New variant
      </Button>
      {list.length === 0 && (
        <p className="px-1 pb-1 text-[12.5px] text-ink-2">
          Variants are how the product is sold: with or without some parts, in other finishes, under other names. One
          reveal serves them all.
        </p>
      )}
      {list.length > 0 && (
        <ul aria-label="Variants">
          <li>
            <Choose text="All parts" note="of all variants" on={shown === ''} onClick={() => showVariant('')} />
          </li>
          {list.map((v, k) => (
            <Entry key={v.id} variant={v} fewer={table.fewer[k] ?? 0} on={v.id === shown} />
          ))}
        </ul>
      )}
      {list.length > 0 && <Differences list={list} rows={table.rows} />}
    </>
  )
}

function Choose({ text, note, on, onClick }: { text: string; note: string; on: boolean; onClick(): void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      className="flex h-[27px] w-full min-w-0 items-center gap-2 rounded-[3px] px-1 text-left hover:bg-sheet-2 aria-pressed:bg-ink aria-pressed:text-sheet"
    >
      <span className="min-w-0 grow truncate">{text}</span>
      <span className="shrink-0 text-[11.5px] opacity-70">{note}</span>
    </button>
  )
}

function Entry({ variant: v, fewer, on }: { variant: Variant; fewer: number; on: boolean }) {
  const [naming, setNaming] = useState(false)
  const { arrange, showVariant } = useSession.getState()
  const rename = (name: string) => {
    setNaming(false)
    if (name && name !== v.name) void arrange({ do: 'setVariants', variants: [{ ...v, name }] })
  }
  if (naming)
    return (
      <li>
        <input
          autoFocus
          aria-label="Name of the variant"
          defaultValue={v.name}
          maxLength={200}
          onFocus={(e) => e.currentTarget.select()}
          onBlur={(e) => rename(e.currentTarget.value.trim())}
          onKeyDown={(e) => {
            e.stopPropagation()
            if (e.key === 'Enter') e.currentTarget.blur()
            if (e.key === 'Escape') setNaming(false)
          }}
          className="h-[27px] w-full rounded-md border border-line bg-white px-1.5"
        />
      </li>
    )
  return (
    <li className="flex items-center">
      <Choose
        text={v.name}
        note={fewer === 0 ? 'all parts' : `${fewer} ${fewer === 1 ? 'part' : 'parts'} fewer`}
        on={on}
        onClick={() => showVariant(v.id)}
      />
      <Menu
        label={`More about ${v.name}`}
        actions={[
          { text: 'Rename…', run: () => setNaming(true) },
          { text: 'Another one like it', run: () => void addVariant(v) },
          { text: 'Remove', run: () => void arrange({ do: 'removeVariant', variantId: v.id }) },
        ]}
      >
        <IconButton label={`More about ${v.name}`}>
          <Ellipsis size={14} />
        </IconButton>
      </Menu>
    </li>
  )
}

// Differences is the table of parts against variants: the parts that some variant says something of.
function Differences({ list, rows }: { list: readonly Variant[]; rows: readonly Difference[] }) {
  const product = useSession((s) => s.product)!
  const shown = useSession((s) => s.variant)
  const { select, setHover, arrange } = useSession.getState()
  const names = nodeById(product)
  if (rows.length === 0)
    return (
      <p className="mt-2 px-1 text-[12.5px] text-ink-2">
        Nothing is otherwise yet: choose a variant, pick parts, and say at the right what it has of them.
      </p>
    )
  return (
    <table className="mt-2 w-full table-fixed border-t border-hair text-[12.5px]">
      <caption className="sr-only">What is otherwise in which variant</caption>
      <thead>
        <tr>
          <th scope="col" className="py-1 pl-1 text-left text-[12px] font-normal text-ink-2">
            What differs
          </th>
          {list.map((v) => (
            <th
              key={v.id}
              scope="col"
              title={v.name}
              className={clsx('w-9 truncate text-[11px] font-normal', v.id === shown ? 'text-ink' : 'text-ink-2')}
            >
              {v.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ node: id, in: there }) => (
          <tr
            key={id}
            onMouseEnter={() => setHover(id)}
            onMouseLeave={() => setHover(null)}
            className="hover:bg-sheet-2"
          >
            <th scope="row" className="p-0 text-left font-normal">
              <button
                type="button"
                title={labelOf(product, id)}
                onClick={() => select({ nodes: [id] })}
                className="h-[25px] w-full truncate px-1 text-left"
              >
                {names.get(id)?.name}
              </button>
            </th>
            {list.map((v, k) => {
              const out = !there[k]
              return (
                <td key={v.id} className="p-0 text-center">
                  <Cell
                    variant={v}
                    id={id}
                    out={out}
                    onClick={() => void arrange({ do: out ? 'putBack' : 'leaveOut', variantId: v.id, nodes: [id] })}
                  />
                </td>
              )
            })}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

// Cell says whether a variant has something, and what is otherwise about it there.
function Cell({ variant: v, id, out, onClick }: { variant: Variant; id: string; out: boolean; onClick(): void }) {
  const product = useSession((s) => s.product)!
  const names = nodeById(product)
  const name = names.get(id)?.name ?? id
  const by = v.instead?.find((e) => e.of === id)?.by
  const other = [
    v.finishes?.findLast((f) => f.nodes.includes(id))?.finish.name,
    v.poses?.some((p) => p.node === id) ? 'stands elsewhere' : undefined,
    v.names?.find((n) => n.node === id)?.name,
  ].filter(Boolean)
  const says = by
    ? `${names.get(by)?.name} is there in its place`
    : out
      ? 'not in it'
      : other.length > 0
        ? `in it: ${other.join(', ')}`
        : 'in it'
  return (
    <button
      type="button"
      aria-pressed={!out}
      aria-label={`${name}, ${v.name}: ${says}`}
      title={`${v.name}: ${says}. ${out ? 'Put it in' : 'Leave it out'}`}
      onClick={onClick}
      className={clsx(
        'mx-auto grid h-[25px] w-full place-items-center rounded-[3px] hover:bg-white',
        out ? 'text-ink-3' : 'text-ink',
      )}
    >
      {by ? <Replace size={13} /> : out ? <Minus size={13} /> : <Check size={13} />}
      {!out && other.length > 0 && <span aria-hidden className="absolute ml-5 size-[5px] rounded-full bg-advice" />}
    </button>
  )
}
