import clsx from 'clsx'
import { counted, openOnes, useProof } from '../proof/proof'
import { go, type Phase } from '../session/route'
import { useSession } from '../session/session'
import { Button } from '../ui/controls'
import { People } from './People'
import { RevealMenu } from './RevealMenu'
import { ArrangementHistory, RevealHistory, Saved } from './Saved'
import { VariantMenu } from './VariantMenu'
import { phases } from './phases'

export function Header({ phase, onFind, onVersions }: { phase: Phase | null; onFind(): void; onVersions(): void }) {
  const project = useSession((s) => s.project)
  const reveal = useSession((s) => s.revealId)
  const opened = useSession((s) => s.doc !== null)
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
            <RevealMenu project={project.id} phase={phase} onVersions={onVersions} />
            <VariantMenu />
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
                go(`/p/${project.id}/${p.phase}${reveal ? `/${reveal}` : ''}`)
              }}
              className={clsx(
                'flex items-center border-b-2 pt-0.5 text-[14px]',
                p.phase === phase ? 'border-ink font-semibold' : 'border-transparent text-ink-2 hover:text-ink',
              )}
            >
              {p.text}
              {p.phase === 'proof' && opened && <Count all={phase === 'proof'} />}
            </a>
          ))}
      </nav>
      <div className="flex items-center justify-end gap-2">
        {phase && opened && (
          <>
            <Saved />
            {phase === 'prepare' ? <ArrangementHistory /> : <RevealHistory />}
            <People />
          </>
        )}
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
