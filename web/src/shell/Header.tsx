import clsx from 'clsx'
import { ChevronDown, Redo2, Undo2 } from 'lucide-react'
import { useRef } from 'react'
import { useLine } from '../api/line'
import { counted, openOnes, useProof } from '../proof/proof'
import { bringFile, duplicateReveal, newReveal, removeReveal, reverseReveal, saveReveal } from '../session/documents'
import { sendAll, type Saving } from '../session/outbox'
import { go, type Phase } from '../session/route'
import { useSession } from '../session/session'
import { Button, IconButton, Menu } from '../ui/controls'
import { People } from './People'
import { VariantMenu } from './VariantMenu'
import { phases } from './phases'

export function Header({ phase, onFind, onVersions }: { phase: Phase | null; onFind(): void; onVersions(): void }) {
  const { project, reveals, revealId, doc, undoTo, redoTo, saving, arrangement, undo, redo, undoArrange, redoArrange } =
    useSession()
  const title = doc?.title ?? ''
  const file = useRef<HTMLInputElement>(null)
  const choose = (id: string) => go(`/p/${project!.id}/${phase}/${id}`)
  return (
    <header className="grid min-h-[46px] grid-cols-[1fr_auto_1fr] items-stretch border-b border-ink bg-paper px-4 max-[900px]:flex max-[900px]:flex-wrap max-[900px]:justify-between max-[900px]:gap-x-4">
      <div className="flex min-w-0 items-center gap-2.5 pr-4">
        <a
          href="/"
          aria-label="All projects"
          title="All projects"
          onClick={(e) => {
            e.preventDefault()
            go('/')
          }}
          className="shrink-0"
        >
          <img src="/mark.svg" alt="Slow Reveal" width={24} height={24} />
        </a>
        {phase && project ? (
          <>
            <b className="truncate font-semibold" title={project.name}>
              {project.name}
            </b>
            <span className="text-ink-3">/</span>
            <Menu
              label="Reveals"
              actions={[
                ...reveals.map((r) => ({ text: r.id === revealId ? `${title} ·` : r.title, run: () => choose(r.id) })),
                { text: 'New reveal', run: () => void newReveal().then((id) => id && choose(id)) },
                { text: 'Duplicate this one', run: () => void duplicateReveal().then((id) => id && choose(id)) },
                {
                  text: 'Show it backwards, as another one',
                  run: () => void reverseReveal().then((id) => id && choose(id)),
                },
                { text: 'Versions…', run: onVersions },
                { text: 'Save it as a file (JSON)', run: saveReveal },
                { text: 'Bring one in from a file…', run: () => file.current?.click() },
                {
                  text: 'Delete this one',
                  disabled: reveals.length < 2,
                  run: () => {
                    const next = reveals.find((r) => r.id !== revealId)
                    void removeReveal(revealId!).then((done) => done && next && choose(next.id))
                  },
                },
              ]}
            >
              <button
                type="button"
                className="flex min-w-0 items-center gap-1 rounded-md px-1 py-0.5 text-ink-2 hover:bg-hair hover:text-ink"
              >
                <span className="truncate" title={title}>
                  {title || 'Opening…'}
                </span>
                <ChevronDown size={13} className="shrink-0" />
              </button>
            </Menu>
            <VariantMenu />
            <input
              ref={file}
              type="file"
              accept=".json,application/json"
              aria-label="Reveal file"
              className="sr-only"
              tabIndex={-1}
              onChange={(e) => {
                void bringFile(e.target.files?.[0]).then((id) => id && choose(id))
                e.target.value = ''
              }}
            />
          </>
        ) : (
          <b className="font-semibold">Slow Reveal</b>
        )}
      </div>
      <nav aria-label="Phases" className="flex gap-7 max-[900px]:h-9 max-[900px]:gap-4">
        {phase &&
          project &&
          phases.map((p) => (
            <a
              key={p.phase}
              href={`/p/${project.id}/${p.phase}`}
              aria-current={p.phase === phase ? 'page' : undefined}
              onClick={(e) => {
                e.preventDefault()
                go(`/p/${project.id}/${p.phase}${revealId ? `/${revealId}` : ''}`)
              }}
              className={clsx(
                'flex items-center border-b-2 pt-0.5 text-[14px]',
                p.phase === phase ? 'border-ink font-semibold' : 'border-transparent text-ink-2 hover:text-ink',
              )}
            >
              {p.text}
              {p.phase === 'proof' && doc && <Count all={phase === 'proof'} />}
            </a>
          ))}
      </nav>
      <div className="flex items-center justify-end gap-2">
        {phase && doc && (
          <>
            <Kept saving={saving} />
            {saving === 'stuck' && <Button onClick={sendAll}>Save now</Button>}
            {phase === 'prepare' ? (
              <>
                <IconButton
                  label={arrangement?.undo ? `Undo: ${arrangement.undo}` : 'Undo'}
                  keys="Ctrl Z"
                  disabled={!arrangement?.undo}
                  onClick={() => void undoArrange()}
                >
                  <Undo2 size={15} />
                </IconButton>
                <IconButton
                  label={arrangement?.redo ? `Redo: ${arrangement.redo}` : 'Redo'}
                  keys="Ctrl Shift Z"
                  disabled={!arrangement?.redo}
                  onClick={() => void redoArrange()}
                >
                  <Redo2 size={15} />
                </IconButton>
              </>
            ) : (
              <>
                <IconButton
                  label="Undo"
                  keys="Ctrl Z"
                  disabled={undoTo === 0 && saving === 'saved'}
                  onClick={() => void undo()}
                >
                  <Undo2 size={15} />
                </IconButton>
                <IconButton label="Redo" keys="Ctrl Shift Z" disabled={redoTo === 0} onClick={() => void redo()}>
                  <Redo2 size={15} />
                </IconButton>
              </>
            )}
          </>
        )}
        {phase && doc && <People />}
        {phase && (
          <Button onClick={onFind}>
            Find… <kbd className="mono text-[11px] text-ink-2 max-[900px]:hidden">Ctrl K</kbd>
          </Button>
        )}
      </div>
    </header>
  )
}

// Count is how many faults are open, or else warnings, beside the phase that tells of them.
function Count({ all }: { all: boolean }) {
  const { data } = useProof(all)
  const outcome = data?.report
  const faults = openOnes(outcome, 'fault').length
  const n = faults || openOnes(outcome, 'warning').length
  if (n === 0) return null
  return (
    <span
      data-count={faults > 0 ? 'fault' : 'warning'}
      title={`Open: ${counted(outcome)}`}
      className={clsx(
        'mono ml-1.5 rounded-full border px-1.5 text-[11px] leading-[16px] font-normal',
        faults > 0 ? 'border-signal-ink bg-signal-ink text-sheet' : 'border-ink-3 text-ink-2',
      )}
    >
      {n}
      <span className="sr-only"> open</span>
    </span>
  )
}

const keptWords = {
  saved: 'Saved',
  saving: 'Saving…',
  waiting: 'Not saved yet: the server does not answer',
  stuck: 'Not saved: kept in this browser',
  offline: 'Saved, but the server does not answer',
}

// Kept says whether everything is stored, and whether the server answers.
function Kept({ saving }: { saving: Saving }) {
  const { silent, again } = useLine()
  const state = saving === 'saving' && again > 0 ? 'waiting' : saving === 'saved' && silent ? 'offline' : saving
  return (
    <span
      role="status"
      data-saving={state}
      title={keptWords[state]}
      className={clsx(
        'mr-1 truncate text-[12px]',
        state === 'saved' || state === 'saving' ? 'text-ink-2' : 'text-signal-ink',
      )}
    >
      {keptWords[state]}
    </span>
  )
}
