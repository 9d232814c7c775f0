import { CoreContext } from './core/useCore'
import { onStage } from './session/eye'
import { useCallback, useEffect, useState } from 'react'
import { Direct } from './phases/Direct'
import { Projects } from './phases/Projects'
import { useKeys } from './session/keys'
import { go, useRoute } from './session/route'
import { useSession } from './session/session'
import { keepWhereabouts } from './session/whereabouts'
import { Boundary } from './ui/Boundary'
import { later } from './ui/later'
import { ContextMenu } from './ui/ContextMenu'
import { Button } from './ui/controls'
import { Find, Help } from './shell/Find'
import { Versions } from './shell/Versions'
import { phases } from './shell/phases'
import { useOpen } from './shell/open'
import { useEvents } from './shell/events'
import { useUnsent } from './shell/unsent'
import { Skip } from './shell/Skip'
import { Header } from './shell/Header'
import { Message } from './shell/Message'

// What a stranger opens first comes at once; the rest is fetched while the project opens, also for when the line is down.
const Prepare = later(() => import('./phases/Prepare').then((m) => m.Prepare))

const Proof = later(() => import('./proof/Proof').then((m) => m.Proof))

const Release = later(() => import('./release/Release').then((m) => m.Release))

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
  useEffect(() => {
    if (!open) return
    const wait = setTimeout(() => [Prepare, Proof, Release].forEach((view) => void view.fetch().catch(() => {})), 1000)
    return () => clearTimeout(wait)
  }, [open])
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
                <Prepare.View />
              ) : route.phase === 'proof' ? (
                <Proof.View />
              ) : route.phase === 'release' ? (
                <Release.View />
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

// useWhereabouts lets a reload of the page come back to where the author was.
const useWhereabouts = () => useEffect(() => keepWhereabouts(() => onStage()?.eyes.present()), [])

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
