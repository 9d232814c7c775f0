import { useMemo, useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { shortcuts } from '../session/keys'
import { go } from '../session/route'
import { labelOf, useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Dialog } from '../ui/controls'

interface Hit {
  what: string
  text: string
  keys?: string
  /** The part that hovering shows. */
  node?: string
  run(): void
}

// named reports whether a hit has just the name that was typed, a step's number aside.
const named = (h: Hit, text: string) =>
  [h.text, h.text.replace(/^\d+ /, '')].some((t) => t.toLowerCase() === text.trim().toLowerCase())

// Find reaches every command, part, step and reveal by its name.
export function Find({ open, onClose }: { open: boolean; onClose(): void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Find" size="wide">
      {open && <Search onClose={onClose} />}
    </Dialog>
  )
}

function Search({ onClose }: { onClose(): void }) {
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const s = useSession(
    useShallow(({ doc, schedule, reveals, project, assembly, arrangement, survey, select, setHover }) => ({
      doc,
      schedule,
      reveals,
      project,
      assembly,
      arrangement,
      survey,
      select,
      setHover,
    })),
  )
  const all = useMemo<Hit[]>(() => {
    const steps = (s.doc?.steps ?? []).map((x, i): Hit => ({
      what: 'Step',
      text: `${i + 1} ${x.title}`,
      run: () => {
        s.select({ step: x.id })
        useTransport.getState().seek(s.schedule!.steps[i]!.start)
      },
    }))
    const reveals = s.reveals.map((r): Hit => ({
      what: 'Reveal',
      text: r.title,
      run: () => go(`/p/${s.project!.id}/direct/${r.id}`),
    }))
    const commands = s.doc
      ? shortcuts.filter((x) => x.run).map((x): Hit => ({ what: 'Command', text: x.text, keys: x.keys, run: x.run! }))
      : []
    const parts = (s.assembly?.nodes ?? []).map((n): Hit => ({
      what: 'Part',
      text: labelOf(s.assembly, n.id),
      node: n.id,
      run: () => s.select({ nodes: [n.id] }),
    }))
    const sets = [...(s.arrangement?.sets ?? []), ...(s.survey?.ready ?? [])].map((x): Hit => ({
      what: 'Part set',
      text: x.name,
      run: () => s.select({ nodes: x.nodes }),
    }))
    return [...commands, ...steps, ...reveals, ...sets, ...parts]
  }, [s])
  const wanted = text.toLowerCase().split(/\s+/).filter(Boolean)
  const found = all.filter((h) => wanted.every((w) => h.text.toLowerCase().includes(w)))
  const hits = found.sort((a, b) => Number(named(b, text)) - Number(named(a, text))).slice(0, 60)
  const take = (h: Hit | undefined) => {
    if (!h) return
    onClose()
    setTimeout(h.run) // after the dialog has given the focus back
  }
  return (
    <>
      <input
        autoFocus
        value={text}
        aria-label="Find a command, part, part set, step or reveal"
        placeholder="A command, part, part set, step or reveal"
        role="combobox"
        aria-expanded={hits.length > 0}
        aria-controls="found"
        aria-activedescendant={hits[at] ? `hit-${at}` : undefined}
        onChange={(e) => {
          setText(e.target.value)
          setAt(0)
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') setAt(Math.max(Math.min(at + 1, hits.length - 1), 0))
          else if (e.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
          else if (e.key === 'Enter') take(hits[at])
          else return
          e.preventDefault()
        }}
        className="mb-2 h-10 w-full rounded-md border border-line bg-white px-3 text-[15px]"
      />
      <ul id="found" role="listbox" aria-label="Found" className={hits.length ? 'min-h-[120px]' : ''}>
        {hits.map((h, i) => (
          <li
            key={`${h.what}${h.text}${i}`}
            id={`hit-${i}`}
            role="option"
            aria-selected={i === at}
            onPointerMove={() => {
              setAt(i)
              s.setHover(h.node ?? null)
            }}
            onPointerLeave={() => s.setHover(null)}
            onClick={() => take(h)}
            className={`flex cursor-default items-baseline gap-3 rounded-[3px] px-2 py-1 ${i === at ? 'bg-ink text-sheet' : ''}`}
          >
            <span className={`w-[70px] text-[11.5px] ${i === at ? 'text-line' : 'text-ink-2'}`}>{h.what}</span>
            <span className="grow truncate">{h.text}</span>
            {h.keys && <kbd className="mono text-[11px]">{h.keys}</kbd>}
          </li>
        ))}
      </ul>
      <p role="status" className={hits.length ? 'sr-only' : 'min-h-[120px] px-2 py-3 text-ink-2'}>
        {hits.length ? `${found.length} found` : 'Nothing is called that.'}
      </p>
    </>
  )
}

export function Help({ open, onClose }: { open: boolean; onClose(): void }) {
  const groups = ['Time', 'Eye', 'All', 'Parts', 'Cues'] as const
  return (
    <Dialog open={open} onClose={onClose} title="Shortcuts" size="wide">
      <div className="columns-2 gap-8">
        {groups.map((g) => (
          <section key={g} className="mb-4 break-inside-avoid">
            <h3 className="serif mb-1 text-[15px] font-semibold">{g}</h3>
            <dl>
              {shortcuts
                .filter((x) => x.group === g)
                .map((x) => (
                  <div key={x.keys + x.text} className="flex justify-between gap-4 border-b border-hair py-[3px]">
                    <dt>{x.text}</dt>
                    <dd>
                      <kbd className="mono text-[11.5px] whitespace-nowrap text-ink-2">{x.keys}</kbd>
                    </dd>
                  </div>
                ))}
            </dl>
          </section>
        ))}
      </div>
      <p className="text-[12.5px] text-ink-2">
        Drag on the stage to look around, wheel to come nearer, right button to shift. Ctrl or Shift adds to a pick; Alt
        points at a face, an axis or an edge that the next movement goes along. Hold Alt while dragging a bar to leave
        the frames. Numbers take units and sums: 2*35, 3 turns, 1:07.5.
      </p>
    </Dialog>
  )
}
