import { CoreContext } from './core/useCore'
import { onStage, leaveEye, setEye } from './session/eye'
import clsx from 'clsx'
import { useQueryClient } from '@tanstack/react-query'
import { ChevronDown, Redo2, Undo2 } from 'lucide-react'
import { useCallback, useEffect, useRef, useState } from 'react'
import { words, type Schemas } from './api/client'
import { useLine } from './api/line'
import { Direct } from './phases/Direct'
import { Prepare } from './phases/Prepare'
import { Projects } from './phases/Projects'
import { counted, openOnes, useProof } from './proof/proof'
import { Proof } from './proof/Proof'
import { Release } from './release/Release'
import { bringFile, duplicateReveal, newReveal, removeReveal, reverseReveal, saveReveal } from './session/documents'
import { useKeys } from './session/keys'
import { heard } from './session/presence'
import { alive, anythingUnsent, sendAll, sendLeftBehind, type Saving } from './session/outbox'
import { go, useRoute, type Phase } from './session/route'
import { useSession } from './session/session'
import { useTransport } from './session/transport'
import { keepWhereabouts, resume, whereaboutsIn } from './session/whereabouts'
import { Boundary } from './ui/Boundary'
import { ContextMenu } from './ui/ContextMenu'
import { Button, IconButton, Menu } from './ui/controls'
import { Find, Help } from './shell/Find'
import { People } from './shell/People'
import { Versions } from './shell/Versions'

const phases: readonly { phase: Phase; text: string }[] = [
  { phase: 'prepare', text: 'Prepare' },
  { phase: 'direct', text: 'Direct' },
  { phase: 'proof', text: 'Proof' },
  { phase: 'release', text: 'Release' },
]

export function App() {
  const route = useRoute()
  const [problem, again] = useOpen(route.project, route.reveal)
  const project = useSession((s) => s.project)
  const doc = useSession((s) => s.doc)
  const core = useSession((s) => s.core)
  const [finding, setFinding] = useState(false)
  const [helping, setHelping] = useState(false)
  const [comparing, setComparing] = useState(false)
  const open = project !== null && project.id === route.project && doc !== null
  useKeys(
    open ? route.phase : null,
    useCallback(() => setFinding(true), []),
    useCallback(() => setHelping(true), []),
  )
  useEvents(open ? project.id : null)
  useUnsent()
  useWhereabouts()
  // Who has opened a project goes on inside of it.
  useEffect(() => {
    if (open) document.getElementById('main')?.focus({ preventScroll: true })
  }, [open, project?.id])

  return (
    <CoreContext value={core}>
      <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[minmax(46px,auto)_minmax(0,1fr)]">
        {open && <Skip phase={route.phase} />}
        <Header
          phase={route.project ? route.phase : null}
          onFind={() => setFinding(true)}
          onVersions={() => setComparing(true)}
        />
        {!route.project ? (
          <Projects />
        ) : problem ? (
          <Trouble text={problem} onAgain={again} />
        ) : !open ? (
          <main className="p-10">
            <h1 className="sr-only">Opening</h1>
            <p role="status" className="text-ink-2">
              Opening the project…
            </p>
          </main>
        ) : (
          <main id="main" tabIndex={-1} className="min-h-0 outline-none">
            <h1 className="sr-only">{`${phases.find((p) => p.phase === route.phase)?.text}: ${doc.title}, ${project.name}`}</h1>
            <Boundary key={route.phase} name={phases.find((p) => p.phase === route.phase)?.text ?? 'The page'}>
              {route.phase === 'prepare' ? (
                <Prepare />
              ) : route.phase === 'proof' ? (
                <Proof />
              ) : route.phase === 'release' ? (
                <Release />
              ) : (
                <Direct />
              )}
            </Boundary>
          </main>
        )}
        <Find open={finding} onClose={() => setFinding(false)} />
        <Help open={helping} onClose={() => setHelping(false)} />
        <Versions open={comparing} onClose={() => setComparing(false)} />
        <ContextMenu />
        <Message />
      </div>
    </CoreContext>
  )
}

// useOpen brings the project and the reveal of the address into the editor.
function useOpen(project: string | null, reveal: string | null): [string | null, () => void] {
  const [problem, setProblem] = useState<string | null>(null)
  const [tries, setTries] = useState(0)
  useEffect(() => {
    const s = useSession.getState()
    setProblem(null)
    if (!project) return s.close()
    let gone = false
    const bring = async () => {
      if (useSession.getState().project?.id !== project) await s.openProject(project)
      const { reveals, revealId } = useSession.getState()
      const wanted = reveal ?? revealId ?? reveals[reveals.length - 1]?.id
      if (!wanted || gone || wanted === revealId) return
      await s.openReveal(wanted)
      useTransport.setState({ time: 0, playing: false })
      const was = whereaboutsIn(wanted)
      if (!was) return
      if (was.camera) leaveEye(wanted, was.camera)
      setEye(was.eye)
      resume(was)
    }
    bring().catch((e: unknown) => !gone && setProblem(words(e)))
    return () => void (gone = true)
  }, [project, reveal, tries])
  return [
    problem,
    useCallback(() => {
      sendAll()
      setTries((n) => n + 1)
    }, []),
  ]
}

const silence = 2000 // ms without a line before it is said

// useEvents listens to what other pages and the workers do.
function useEvents(project: string | null) {
  const client = useQueryClient()
  useEffect(() => {
    if (!project) return
    const source = new EventSource(`/api/projects/${project}/events`)
    // What happened before the line stood, or while it was down, is fetched.
    const everything = () => {
      const s = useSession.getState()
      void s.catchUp(Infinity)
      void s.refreshArranged(Infinity)
      s.refreshReveals().catch(() => undefined) // the next event tells
      void client.invalidateQueries({ queryKey: ['outputs', project] })
    }
    let before = false
    let quiet: ReturnType<typeof setTimeout> | undefined
    const heardOf = (silent: boolean) => {
      clearTimeout(quiet)
      quiet = silent ? setTimeout(() => useLine.setState({ silent }), silence) : undefined
      if (!silent) useLine.setState({ silent })
    }
    source.onerror = () => quiet ?? heardOf(true)
    source.onopen = () => {
      heardOf(false)
      sendAll()
      if (before) everything()
      else void useSession.getState().catchUp(Infinity)
      before = true
    }
    source.onmessage = (m) => {
      const e = JSON.parse(m.data as string) as Schemas['Event']
      const s = useSession.getState()
      if (e.kind === 'reveal' && e.id === s.revealId) void s.catchUp(e.version ?? 0)
      if (e.kind === 'presence' && e.presence) heard(e.id, e.presence)
      if (e.kind === 'arrangement') void s.refreshArranged(e.version)
      if (e.kind === 'import') void s.refreshArranged()
      if (e.kind === 'reveals') s.refreshReveals().catch(() => undefined)
      if (e.kind === 'missed') everything()
      if (e.kind === 'output') void client.invalidateQueries({ queryKey: ['outputs', project] })
    }
    return () => {
      source.close()
      heardOf(false)
    }
  }, [project, client])
}

// useWhereabouts lets a reload of the page come back to where the author was.
const useWhereabouts = () => useEffect(() => keepWhereabouts(() => onStage()?.present()), [])

// useUnsent keeps what the server has not got: it warns before the window closes, and sends what
// windows that are gone could not send.
function useUnsent() {
  useEffect(() => {
    alive()
    const warn = (e: BeforeUnloadEvent) => anythingUnsent() && e.preventDefault()
    window.addEventListener('beforeunload', warn)
    window.addEventListener('online', sendAll)
    sendLeftBehind().then(
      (n) =>
        n > 0 &&
        useSession
          .getState()
          .inform(
            `${n === 1 ? 'A change' : `${n} changes`} that had not been stored when the window was closed ${n === 1 ? 'has' : 'have'} been stored now.`,
          ),
      () => undefined,
    )
    return () => {
      window.removeEventListener('beforeunload', warn)
      window.removeEventListener('online', sendAll)
    }
  }, [])
}

// Skip leads past the header, to the parts of the open phase.
function Skip({ phase }: { phase: Phase }) {
  const to = [
    ...(phase === 'direct' ? [['script', 'Script']] : []),
    ...(phase === 'release'
      ? [['main', 'Release']]
      : phase === 'proof'
        ? [['main', 'Proof']]
        : [
            ['stage', 'Stage'],
            ['parts', 'Parts'],
          ]),
    ...(phase === 'direct' ? [['timeline', 'Timeline']] : []),
  ] as [string, string][]
  return (
    <nav aria-label="Skip to" className="fixed top-0 left-1/2 z-50 -translate-x-1/2">
      {to.map(([id, text]) => (
        <button
          key={id}
          type="button"
          onClick={() =>
            [id, 'panels', 'main']
              .map((x) => document.getElementById(x))
              .find(Boolean)
              ?.focus()
          }
          className="sr-only focus-visible:not-sr-only focus-visible:absolute focus-visible:left-0 focus-visible:bg-ink focus-visible:px-3 focus-visible:py-2 focus-visible:whitespace-nowrap focus-visible:text-sheet"
        >
          To the {text.toLowerCase()}
        </button>
      ))}
    </nav>
  )
}

function Trouble({ text, onAgain }: { text: string; onAgain(): void }) {
  return (
    <main className="p-10">
      <h1 className="sr-only">The project cannot be opened</h1>
      <p role="alert" className="max-w-[60ch] border-l-4 border-signal bg-signal-soft px-4 py-3">
        {text}
      </p>
      <div className="mt-4 flex gap-2">
        <Button kind="strong" onClick={onAgain}>
          Try again
        </Button>
        <Button onClick={() => go('/')}>To all projects</Button>
      </div>
    </main>
  )
}

function Header({ phase, onFind, onVersions }: { phase: Phase | null; onFind(): void; onVersions(): void }) {
  const { project, reveals, revealId, doc, undoTo, redoTo, saving, arrangement, undo, redo, undoArrange, redoArrange } =
    useSession()
  const title = doc?.title ?? ''
  const file = useRef<HTMLInputElement>(null)
  const choose = (id: string) => go(`/p/${project!.id}/${phase}/${id}`)
  return (
    <header className="grid min-h-[46px] grid-cols-[1fr_auto_1fr] items-stretch border-b border-ink bg-paper px-4 max-[900px]:flex max-[900px]:flex-wrap max-[900px]:justify-between max-[900px]:gap-x-4">
      <div className="flex min-w-0 items-center gap-2.5">
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

function Message() {
  const message = useSession((s) => s.message)
  const offer = useSession((s) => s.offer)
  const passing = useSession((s) => s.passing)
  const { tell } = useSession.getState()
  useEffect(() => {
    if (!message || !passing) return
    const gone = setTimeout(() => tell(null), 10_000)
    return () => clearTimeout(gone)
  }, [message, passing, tell])
  if (!message) return null
  return (
    <div
      role={passing ? 'status' : 'alert'}
      data-message
      className="fixed bottom-6 left-1/2 z-50 flex max-w-[640px] -translate-x-1/2 items-start gap-4 border-l-4 border-signal bg-ink px-4 py-3 text-sheet shadow-2xl"
    >
      <span>{message}</span>
      {offer && (
        <button
          type="button"
          className="shrink-0 font-semibold underline underline-offset-2"
          onClick={() => {
            offer.run()
            tell(null)
          }}
        >
          {offer.text}
        </button>
      )}
      <button type="button" className="shrink-0 underline underline-offset-2" onClick={() => tell(null)}>
        Close
      </button>
    </div>
  )
}
