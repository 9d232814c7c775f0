import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useMemo, useRef, useState } from 'react'
import type { Schemas } from '../api/client'
import { useImports } from '../phases/Imports'
import { Renewal } from '../phases/Renewal'
import { useOutputs } from '../phases/outputs'
import { perform } from '../session/actions'
import { useSession } from '../session/session'
import { Button } from '../ui/controls'
import { BothFilms } from './BothFilms'
import { Doubts } from './Doubts'
import { takeBefore, takeRevision, useTaking } from './taking'

type Comparison = Schemas['Comparison']

// NewRevision takes the next file of the product in: parts are matched with those that are there, and all that was made of
// them goes on.
export function NewRevision() {
  const client = useQueryClient()
  const imports = useImports()
  const input = useRef<HTMLInputElement>(null)
  const asked = useTaking((t) => t.asked)
  const sending = useTaking((t) => t.sending)
  useEffect(() => void client.invalidateQueries({ queryKey: ['imports'] }), [client, asked])
  const now = imports.data?.find((i) => i.id === asked)
  const busy = sending || (now !== undefined && (now.state === 'waiting' || now.state === 'running'))
  return (
    <>
      <Button className="mt-3 mr-1.5" disabled={busy} onClick={() => input.current?.click()}>
        {busy ? `Reading the new revision, ${Math.round((now?.share ?? 0) * 100)} %` : 'New revision…'}
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="File of the new revision"
        onChange={(e) => {
          void takeRevision([...(e.target.files ?? [])])
          e.target.value = ''
        }}
      />
      {now?.state === 'failed' && (
        <p role="alert" className="mt-1 text-[12.5px] text-signal-ink">
          {now.message}
        </p>
      )}
    </>
  )
}

// Changes tells what is otherwise than in the revision before; each part is one click from the stage.
export function Changes({ changes: c }: { changes: Comparison }) {
  const added = useMemo(() => c.added.filter((x) => x.part).map((x) => x.id), [c])
  const doubts = c.changed.filter((x) => !x.sure)
  const others = c.changed.filter((x) => x.sure)
  const sending = useTaking((s) => s.sending)
  return (
    <section aria-label="What has changed" className="mt-4 border-t border-line pt-3">
      <h3 className="font-semibold">Since the revision before</h3>
      <p className="text-[12.5px] text-ink-2">
        {c.same} as they were, {others.length} changed, {c.gone.length} gone, {c.added.length} new
        {doubts.length > 0 && `, ${doubts.length} in doubt`}.
      </p>
      <div className="mt-2 flex flex-wrap gap-1.5">
        <BothFilms />
        {c.before && (
          <Button
            title="It comes in once more, as the next revision; the one of now stays the one before"
            disabled={sending}
            onClick={() => void takeBefore()}
          >
            Go back to it
          </Button>
        )}
      </div>
      <MadeBefore />
      {c.placed && <p className="mt-1 bg-advice-soft px-2 py-1 text-[12.5px] text-advice">{c.placed}</p>}
      <Doubts list={doubts} before={c.before ?? ''} />
      <Group title="Changed" items={others.map((x) => ({ ...x, text: x.says?.join('; ') ?? '' }))} />
      <Group
        title="New"
        items={c.added.map((x) => ({ ...x, text: x.of ? `was part of “${x.of}”; goes with it` : '' }))}
      />
      <Along nodes={added} />
      <Group title="Gone" items={c.gone.map((x) => ({ ...x, text: x.of ? `one part with “${x.of}” now` : '' }))} gone />
      {(c.followed?.length ?? 0) > 0 && (
        <>
          <h4 className="mt-2 text-[12px] text-ink-2">What has gone with the geometry</h4>
          <ul className="list-disc space-y-0.5 pl-4 text-[12.5px]">
            {c.followed!.map((line, i) => (
              <li key={i}>{line}</li>
            ))}
          </ul>
        </>
      )}
      {(c.lost?.length ?? 0) > 0 && (
        <>
          <h4 className="mt-2 text-[12px] text-signal-ink">What could not follow</h4>
          <ul className="list-disc space-y-0.5 pl-4 text-[12.5px]">
            {c.lost!.map((line, i) => (
              <li key={i}>{line}</li>
            ))}
          </ul>
          <p className="mt-1 text-[12px] text-ink-2">
            Reveals that lost something are kept as they were, as a version called “Before the new revision”.
          </p>
        </>
      )}
    </section>
  )
}

// MadeBefore has everything made again that was made of the revision before.
function MadeBefore() {
  const due = useOutputs().data?.filter((o) => o.due).length ?? 0
  return (
    <div className="mt-2">
      {due > 0 && (
        <p className="mb-1 text-[12.5px] text-ink-2">
          {due === 1 ? 'One output is' : `${due} outputs are`} of before: made again, with a proof and a report of what
          looks otherwise.
        </p>
      )}
      <Renewal due={due} label="Renew what was made" />
    </div>
  )
}

// Along offers to take new parts with others of their shape, in the reveal that is open.
function Along({ nodes }: { nodes: readonly string[] }) {
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const cues = useMemo(() => {
    if (!core || !doc || nodes.length === 0) return null
    try {
      const { commands } = core.ask('compose', { do: 'takeAlong', nodes: [...nodes] }).command
      return new Set(commands?.map((c) => c.cue!.id))
    } catch {
      return null // no cue acts on parts like these, or they go already
    }
  }, [core, doc, nodes])
  if (!cues || !doc) return null
  const steps = doc.steps.flatMap((s, i) => (s.cues?.some((c) => cues.has(c.id)) ? [i + 1] : []))
  return (
    <div className="mt-1 bg-advice-soft px-2 py-1.5 text-[12.5px] text-advice">
      <p>
        No cue of “{doc.title}” touches {nodes.length === 1 ? 'the new part' : 'some of the new parts'}; others of the
        same shape move in step{steps.length > 1 ? 's' : ''} {steps.join(', ')}.
      </p>
      <Button className="mt-1" onClick={() => perform({ do: 'takeAlong', nodes: [...nodes] })}>
        Take along with them
      </Button>
    </div>
  )
}

function Group({
  title,
  items,
  gone,
}: {
  title: string
  items: readonly { id: string; name: string; text: string }[]
  gone?: boolean
}) {
  const [all, setAll] = useState(false)
  const { select } = useSession.getState()
  if (items.length === 0) return null
  const shown = all ? items : items.slice(0, 12)
  return (
    <>
      <h4 className="mt-2 text-[12px] text-ink-2">
        {title} ({items.length})
      </h4>
      <ul className="text-[12.5px]">
        {shown.map((x) => (
          <li key={x.id} className="py-0.5">
            {gone ? (
              <span>{x.name}</span>
            ) : (
              <button
                type="button"
                onClick={() => select({ nodes: [x.id] })}
                className="max-w-full truncate text-left underline decoration-line underline-offset-2"
              >
                {x.name}
              </button>
            )}
            {x.text && <span className="block text-[11.5px] text-ink-2">{x.text}</span>}
          </li>
        ))}
      </ul>
      {items.length > shown.length && (
        <Button kind="quiet" onClick={() => setAll(true)}>
          All {items.length}
        </Button>
      )}
    </>
  )
}

// RevisionDrop takes a file that is dropped on the stage for the next revision.
export function RevisionDrop() {
  const here = useRef<HTMLDivElement>(null)
  const [over, setOver] = useState(false)
  useEffect(() => {
    const frame = here.current?.parentElement
    if (!frame) return
    const files = (e: DragEvent) => e.dataTransfer?.types.includes('Files') ?? false
    const dragged = (e: DragEvent) => {
      if (!files(e)) return
      e.preventDefault()
      setOver(true)
    }
    const left = (e: DragEvent) => !frame.contains(e.relatedTarget as Node | null) && setOver(false)
    const dropped = (e: DragEvent) => {
      if (!files(e)) return
      e.preventDefault()
      setOver(false)
      void takeRevision([...(e.dataTransfer?.files ?? [])])
    }
    frame.addEventListener('dragover', dragged)
    frame.addEventListener('dragleave', left)
    frame.addEventListener('drop', dropped)
    return () => {
      frame.removeEventListener('dragover', dragged)
      frame.removeEventListener('dragleave', left)
      frame.removeEventListener('drop', dropped)
    }
  }, [])
  return (
    <div
      ref={here}
      aria-hidden={!over}
      className={
        over
          ? 'pointer-events-none absolute inset-3 grid place-items-center border-2 border-dashed border-advice bg-sheet/85 text-[15px] text-advice'
          : 'hidden'
      }
    >
      {over && 'Drop it: it becomes the next revision of this product'}
    </div>
  )
}
