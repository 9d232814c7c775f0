import clsx from 'clsx'
import { useVirtualizer } from '@tanstack/react-virtual'
import { ChevronDown, ChevronRight, EyeOff, Group } from 'lucide-react'
import { useEffect, useMemo, useRef, useState } from 'react'
import type { Assembly } from '../api/client'
import { markedBelow } from '../core/tree'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Menu } from '../ui/controls'
import { typeAhead } from '../ui/roving'
import { openPartMenu } from './PartMenu'

// SetMenu picks a part set: one that was kept, or one that the shapes offer.
function SetMenu() {
  const own = useSession((s) => s.arrangement?.sets)
  const survey = useSession((s) => s.survey)
  const { select } = useSession.getState()
  const sets = [...(own ?? []).map((x) => ({ name: x.name, nodes: x.nodes })), ...(survey?.ready ?? [])]
  return (
    <Menu
      label="Part sets"
      actions={
        sets.length > 0
          ? sets.map((x) => ({ text: x.name, keys: `${x.nodes.length} parts`, run: () => select({ nodes: x.nodes }) }))
          : [
              {
                text: survey ? 'There is no part set yet: keep one in Prepare' : 'The parts are being looked at…',
                disabled: true,
                run: () => undefined,
              },
            ]
      }
    >
      <button
        type="button"
        aria-label="Pick a part set"
        title="Pick a part set"
        className="grid size-8 shrink-0 place-items-center rounded-md border border-line bg-white text-ink-2 hover:border-ink-3 hover:text-ink"
      >
        <Group size={14} />
      </button>
    </Menu>
  )
}

// Aside is what stands at the end of a row; its name says it in words.
const Aside = ({ text, title }: { text: string; title?: string }) => (
  <span
    aria-hidden
    title={title}
    data-text={text}
    className="mono text-[11.5px] text-ink-2 after:content-[attr(data-text)]"
  />
)

interface Row {
  id: string
  name: string
  depth: number
  parts: number
  open: boolean
  branch: boolean
}

// countParts gives every node the number of parts at or below it.
function countParts(a: Assembly): number[] {
  const n = a.nodes.map((x) => (x.shape >= 0 ? 1 : 0))
  for (let i = a.nodes.length - 1; i > 0; i--) n[a.nodes[i]!.parent]! += n[i]!
  return n
}

function rowsOf(a: Assembly, counts: number[], closed: ReadonlySet<string>, search: string): Row[] {
  const depth: number[] = []
  const shown: boolean[] = []
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const rows: Row[] = []
  a.nodes.forEach((n, i) => {
    depth[i] = i === 0 ? 0 : depth[n.parent]! + 1
    const branch = counts[i]! > (n.shape >= 0 ? 1 : 0)
    if (words.length > 0) {
      if (words.every((w) => n.name.toLowerCase().includes(w)))
        rows.push({ id: n.id, name: n.name, depth: 0, parts: counts[i]!, open: false, branch: false })
      return
    }
    shown[i] = i === 0 || (shown[n.parent]! && !closed.has(a.nodes[n.parent]!.id))
    if (shown[i])
      rows.push({ id: n.id, name: n.name, depth: depth[i]!, parts: counts[i]!, open: !closed.has(n.id), branch })
  })
  return rows
}

// PartsTree is the assembly as a tree: what is picked here is marked on the
// stage, and the other way round.
export function PartsTree({ coverage }: { coverage?: boolean }) {
  const assembly = useSession((s) => s.assembly)
  const nodes = useSession((s) => s.selection.nodes)
  const hover = useSession((s) => s.hover)
  const leftOut = useSession((s) => s.doc?.opening.suppressed)
  const { pickNode, select, setHover } = useSession.getState()
  const [search, setSearch] = useState('')
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set())
  const scroller = useRef<HTMLDivElement>(null)
  const anchor = useRef<string | null>(null)

  const product = useSession((s) => s.product)
  const absent = useSession((s) => s.absent)
  const counts = useMemo(() => (product ? countParts(product) : []), [product])
  useEffect(() => {
    // Big trees open with their first two levels.
    if (!product) return
    const depth: number[] = []
    const shut = new Set<string>()
    product.nodes.forEach((n, i) => {
      depth[i] = i === 0 ? 0 : depth[n.parent]! + 1
      if (depth[i]! >= 1 && counts[i]! > 1) shut.add(n.id)
    })
    setClosed(shut)
  }, [product, counts])
  const rows = useMemo(
    () => (assembly ? rowsOf(assembly, counts, closed, search) : []),
    [assembly, counts, closed, search],
  )
  // How solid parts are at the playhead, and what the selected step or cue touches.
  const core = useSession((s) => s.core)
  const time = useTransport((s) => (coverage && !s.playing ? s.time : null))
  const shown = useSession((s) => s.doc)
  const solid = useMemo(() => {
    if (!coverage || time === null || !core || !assembly || !shown) return null
    const opacities = core.at(time).opacities
    return new Map(assembly.nodes.map((n, i) => [n.id, opacities[i]!]))
  }, [coverage, time, core, assembly, shown])
  const step = useSession((s) => s.selection.step)
  const cues = useSession((s) => s.selection.cues)
  const inStep = useMemo(
    () =>
      new Set(
        shown?.steps.flatMap((s) =>
          (s.cues ?? []).filter((c) => s.id === step || cues.includes(c.id)).flatMap((c) => c.targets ?? []),
        ) ?? [],
      ),
    [shown, step, cues],
  )
  // What no cue has touched yet has a hollow dot.
  const doc = useSession((s) => s.doc)
  const touched = useMemo(() => {
    if (!coverage || !assembly || !doc) return null
    const targets = new Set(
      doc.steps.flatMap((s) => (s.cues ?? []).flatMap((c) => (c.muted || c.kind === 'note' ? [] : (c.targets ?? [])))),
    )
    for (const driven of core?.ask('drivenNodes') ?? []) targets.add(driven)
    const marks = markedBelow(assembly.nodes, targets)
    // A group is touched when every part in it is.
    const open = assembly.nodes.map((n, i) => (n.shape >= 0 && !marks[i] ? 1 : 0))
    for (let i = assembly.nodes.length - 1; i > 0; i--) open[assembly.nodes[i]!.parent]! += open[i]!
    open.forEach((n, i) => (marks[i] = n === 0))
    return new Set(assembly.nodes.filter((_, i) => marks[i]).map((n) => n.id))
  }, [coverage, assembly, doc, core])
  const left = useMemo(
    () =>
      touched && assembly
        ? assembly.nodes
            .filter(
              (n) =>
                n.shape >= 0 &&
                !touched.has(n.id) &&
                !absent.has(n.id) &&
                !(doc?.opening.suppressed ?? []).includes(n.id),
            )
            .map((n) => n.id)
        : [],
    [touched, assembly, doc, absent],
  )
  const out = useMemo(() => new Set(leftOut ?? []), [leftOut])
  const hidden = useSession((s) => s.hidden)
  const unseen = useMemo(() => {
    const marks = assembly ? markedBelow(assembly.nodes, new Set(hidden)) : []
    return new Set(assembly?.nodes.filter((_, i) => marks[i]).map((n) => n.id))
  }, [assembly, hidden])
  const picked = useMemo(() => new Set(nodes), [nodes])
  // One row is where Tab stops: the one that had the focus last, else what is picked, else the first that is in sight.
  const [focused, setFocused] = useState<string | null>(null)
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 25,
    overscan: 12,
  })

  // What is picked on the stage is opened up and scrolled to.
  const last = nodes[nodes.length - 1]
  useEffect(() => {
    if (!last || !assembly || search) return
    const byId = new Map(assembly.nodes.map((n) => [n.id, n]))
    const open = new Set(closed)
    for (let n = byId.get(last); n && n.parent >= 0; n = assembly.nodes[n.parent])
      open.delete(assembly.nodes[n.parent]!.id)
    if (open.size !== closed.size) setClosed(open)
    const at = rows.findIndex((r) => r.id === last)
    if (at >= 0) list.scrollToIndex(at, { align: 'auto' })
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [last, assembly])

  const toggle = (id: string, open: boolean) => {
    const next = new Set(closed)
    if (open) next.delete(id)
    else next.add(id)
    setClosed(next)
  }

  const pick = (id: string, e: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => {
    if (e.shiftKey && anchor.current) {
      const from = rows.findIndex((r) => r.id === anchor.current)
      const to = rows.findIndex((r) => r.id === id)
      if (from >= 0 && to >= 0)
        return select({ nodes: rows.slice(Math.min(from, to), Math.max(from, to) + 1).map((r) => r.id) })
    }
    anchor.current = id
    pickNode(id, e.ctrlKey || e.metaKey)
  }

  const onKey = (e: React.KeyboardEvent, row: Row, i: number) => {
    const focus = (k: number) => {
      list.scrollToIndex(k, { align: 'auto' })
      requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>(`[data-row="${k}"]`)?.focus())
    }
    const act: Record<string, () => void> = {
      ArrowDown: () => focus(Math.min(i + 1, rows.length - 1)),
      ArrowUp: () => focus(Math.max(i - 1, 0)),
      Home: () => focus(0),
      End: () => focus(rows.length - 1),
      ArrowRight: () =>
        row.branch && !row.open ? toggle(row.id, true) : row.branch && focus(Math.min(i + 1, rows.length - 1)),
      ArrowLeft: () =>
        row.branch && row.open
          ? toggle(row.id, false)
          : focus(
              Math.max(
                rows.findLastIndex((r, k) => k < i && r.depth < row.depth),
                0,
              ),
            ),
      Enter: () => pick(row.id, e),
      ' ': () => pick(row.id, e),
    }
    const f = act[e.key]
    if (!f) {
      if (!e.shiftKey || e.key.length !== 1) return // letters alone are the shortcuts of the page
      const k = typeAhead(
        e,
        rows.map((r) => r.name),
        i,
      )
      if (k < 0) return
      e.preventDefault()
      e.stopPropagation()
      return focus(k)
    }
    e.preventDefault()
    e.stopPropagation()
    f()
  }

  return (
    <div id="parts" tabIndex={-1} className="flex h-full min-h-0 flex-col">
      <div className="relative flex shrink-0 gap-1.5 px-3 pt-3 pb-2">
        <input
          value={search}
          onChange={(e) => setSearch(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
          placeholder="Find a part"
          aria-label="Find a part"
          type="search"
          className="h-8 w-full rounded-md border border-line bg-white px-2.5 text-[13px] placeholder:text-ink-3 hover:border-ink-3"
        />
        {!search && (
          <span
            className={clsx(
              'mono pointer-events-none absolute top-[19px] text-[11.5px] text-ink-2',
              coverage ? 'right-[58px]' : 'right-6',
            )}
          >
            {counts[0]}
          </span>
        )}
        {coverage && <SetMenu />}
      </div>
      {hidden.length > 0 && (
        <button
          type="button"
          onClick={() => useSession.getState().hide([])}
          className="mx-3 mb-1 flex min-h-6 shrink-0 items-center gap-1.5 rounded-[3px] px-1 text-left text-[12px] text-ink-2 hover:bg-sheet-2"
        >
          <EyeOff size={12} /> Some parts are hidden: <span className="underline underline-offset-2">show all</span>
        </button>
      )}
      {touched && !search && (
        <button
          type="button"
          disabled={left.length === 0}
          onClick={() => select({ nodes: left })}
          className="mx-3 mb-1 min-h-6 shrink-0 rounded-[3px] px-1 text-left text-[12px] text-ink-2 enabled:hover:bg-sheet-2"
        >
          {left.length === 0 ? (
            'Every part is touched by a cue'
          ) : (
            <>
              <span aria-hidden className="mr-1.5 inline-block size-[7px] rounded-full border border-ink" />
              {left.length} {left.length === 1 ? 'part' : 'parts'} no cue has touched yet
            </>
          )}
        </button>
      )}
      {rows.length === 0 && (
        <p role="status" className="px-4 py-3 text-ink-2">
          No part is called “{search}”.
        </p>
      )}
      <div ref={scroller} role="tree" aria-label="Parts" aria-multiselectable className="scroll min-h-0 grow pb-2">
        <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((v, _, shownRows) => {
            const row = rows[v.index]!
            const gone = out.has(row.id) || absent.has(row.id)
            const why = absent.has(row.id) ? 'not in this variant' : 'left out'
            const isShown = (id: string | null | undefined) => shownRows.some((x) => rows[x.index]!.id === id)
            const stop = isShown(focused) ? focused : isShown(last) ? last : rows[shownRows[0]!.index]!.id
            const opacity = solid?.get(row.id) ?? 1
            const state = [
              gone ? why : '',
              row.parts > 1 ? `${row.parts} parts` : '',
              unseen.has(row.id) ? 'hidden' : '',
              !gone && opacity === 0
                ? 'not there at the playhead'
                : !gone && opacity < 1
                  ? `${Math.round(100 * opacity)} % solid`
                  : '',
              touched && !touched.has(row.id) ? 'no cue has touched it' : '',
              row.branch ? (row.open ? 'expanded' : 'collapsed') : '',
            ].filter(Boolean)
            return (
              <div
                key={row.id}
                role="treeitem"
                aria-selected={picked.has(row.id)}
                aria-level={row.depth + 1}
                aria-expanded={row.branch ? row.open : undefined}
                data-row={v.index}
                tabIndex={row.id === stop ? 0 : -1}
                aria-label={[row.name, ...state].join(', ')}
                onFocus={() => setFocused(row.id)}
                onClick={(e) => pick(row.id, e)}
                onContextMenu={(e) => {
                  e.preventDefault()
                  if (!picked.has(row.id)) pick(row.id, e)
                  openPartMenu({ x: e.clientX, y: e.clientY })
                }}
                onKeyDown={(e) => onKey(e, row, v.index)}
                onPointerEnter={() => setHover(row.id)}
                onPointerLeave={() => setHover(null)}
                className={clsx(
                  'absolute inset-x-0 flex h-[25px] cursor-default select-none items-center gap-1.5 pr-3 focus-visible:-outline-offset-2',
                  picked.has(row.id) ? 'bg-signal-soft' : hover === row.id ? 'bg-sheet-2' : '',
                  gone && 'text-ink-3',
                )}
                style={{ top: v.start, paddingLeft: 2 + 13 * row.depth }}
              >
                {row.branch ? (
                  <button
                    type="button"
                    tabIndex={-1}
                    title={row.open ? 'Close' : 'Open'}
                    aria-label={row.open ? 'Close' : 'Open'}
                    onClick={(e) => {
                      e.stopPropagation()
                      toggle(row.id, !row.open)
                    }}
                    className="grid size-6 shrink-0 place-items-center text-ink-2 hover:text-ink"
                  >
                    {row.open ? <ChevronDown size={11} /> : <ChevronRight size={11} />}
                  </button>
                ) : (
                  <span className="w-6 shrink-0" />
                )}
                <span
                  aria-hidden
                  className={clsx(
                    'size-[7px] shrink-0 rounded-full',
                    gone
                      ? 'border border-dashed border-ink-3'
                      : touched && !touched.has(row.id)
                        ? 'border border-ink'
                        : 'bg-ink',
                    inStep.has(row.id) && 'ring-2 ring-signal ring-offset-1',
                  )}
                />
                <span
                  className={clsx(
                    'grow truncate',
                    (solid?.get(row.id) ?? 1) < 1 && 'italic',
                    solid?.get(row.id) === 0 && 'text-ink-3',
                  )}
                >
                  {row.name}
                  {gone && `, ${why}`}
                </span>
                {unseen.has(row.id) && <EyeOff size={12} className="shrink-0 text-ink-3" aria-label="hidden" />}
                {!gone && (solid?.get(row.id) ?? 1) < 1 && (
                  <Aside
                    title="How solid it is at the playhead"
                    text={solid!.get(row.id) === 0 ? 'gone' : `${Math.round(100 * solid!.get(row.id)!)} %`}
                  />
                )}
                {row.parts > 1 && <Aside text={String(row.parts)} />}
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}
