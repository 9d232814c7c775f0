import { useState } from 'react'
import { answer, api, words, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Button, Menu } from '../ui/controls'

type Altered = Schemas['Altered']

// Doubts are the parts of a new revision of which it is not sure that they are those for which they were taken: both
// pictures, what speaks for it, and what the author says.
export function Doubts({ list, before }: { list: readonly Altered[]; before: string }) {
  const revision = useSession((s) => s.revisionId)
  const [all, setAll] = useState(false)
  const [busy, setBusy] = useState(false)
  const { select, setHover, arrange, refreshArranged, tell } = useSession.getState()
  if (list.length === 0) return null
  const shown = all ? list : list.slice(0, 6)
  const act = async (what: () => Promise<unknown>) => {
    setBusy(true)
    try {
      await what()
      await refreshArranged()
    } catch (e) {
      tell(words(e))
    }
    setBusy(false)
  }
  const confirm = (...nodes: string[]) => {
    const project = useSession.getState().project!.id
    return answer(api.POST('/api/projects/{id}/confirm', { params: { path: { id: project } }, body: { nodes } }))
  }
  const swap = (a: Altered, b: Altered) =>
    act(async () => {
      if (await arrange({ do: 'swap', nodes: [a.id, b.id] })) await confirm(a.id, b.id)
    })
  return (
    <section aria-label="In doubt">
      <div className="mt-2 flex items-center gap-2">
        <h4 className="grow text-[12px] text-ink-2">Is it the same? ({list.length})</h4>
        {list.length > 1 && (
          <Button kind="quiet" disabled={busy} onClick={() => void act(() => confirm(...list.map((x) => x.id)))}>
            All are
          </Button>
        )}
      </div>
      <ul>
        {shown.map((x) => (
          <li
            key={x.id}
            onMouseEnter={() => setHover(x.id)}
            onMouseLeave={() => setHover(null)}
            className="border-t border-hair py-2 first:border-t-0"
          >
            <div className="grid grid-cols-2 gap-1.5">
              <Alone revision={before} beside={revision} node={x.id} text="Before" />
              <Alone revision={revision} beside={before} node={x.id} text="Now" />
            </div>
            <button
              type="button"
              onClick={() => select({ nodes: [x.id] })}
              className="mt-1 min-h-6 max-w-full truncate text-left text-[12.5px] underline decoration-line underline-offset-2"
            >
              {x.name}
            </button>
            <p className="text-[11.5px] text-ink-2">
              {Math.round(100 * x.confidence)} % sure: {x.why}. {x.says?.join('; ')}
            </p>
            <div className="mt-1 flex flex-wrap gap-1">
              <Button className="!px-2" disabled={busy} onClick={() => void act(() => confirm(x.id))}>
                The same
              </Button>
              <Button
                className="!px-2"
                disabled={busy}
                onClick={() => void act(() => arrange({ do: 'part', node: x.id }))}
              >
                Another one
              </Button>
              {list.length > 1 && (
                <Menu
                  label={`${x.name} was taken for`}
                  actions={list
                    .filter((o) => o !== x && o.part === x.part)
                    .slice(0, 40)
                    .map((o) => ({ text: o.name, run: () => void swap(x, o) }))}
                >
                  <Button className="!px-2" disabled={busy}>
                    Exchange with…
                  </Button>
                </Menu>
              )}
            </div>
          </li>
        ))}
      </ul>
      {list.length > shown.length && (
        <Button kind="quiet" onClick={() => setAll(true)}>
          All {list.length}
        </Button>
      )}
    </section>
  )
}

function Alone({ revision, beside, node, text }: { revision: string; beside: string; node: string; text: string }) {
  return (
    <figure className="min-w-0">
      <img
        alt=""
        loading="lazy"
        width={124}
        height={93}
        src={`/api/revisions/${revision}/part?node=${encodeURIComponent(node)}&beside=${beside}`}
        className="w-full border border-hair bg-sheet-2"
        style={{ aspectRatio: 4 / 3 }}
      />
      <figcaption className="text-[11px] text-ink-2">{text}</figcaption>
    </figure>
  )
}
