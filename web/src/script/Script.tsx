import { DndContext, PointerSensor, closestCenter, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core'
import { SortableContext, verticalListSortingStrategy } from '@dnd-kit/sortable'
import clsx from 'clsx'
import { ListTree, Plus, Rewind } from 'lucide-react'
import type { Assembly, RevealDocument } from '../api/client'
import { openPlan } from '../plan/plan'
import { addStep, backTogether } from '../session/steps'
import { namesOf, useSession } from '../session/session'
import { useRunning, useTransport } from '../session/transport'
import { Button, Tip } from '../ui/controls'
import { walkSteps } from './walk'
import { Mark, StepEntry } from './StepEntry'
import { Words } from './Words'
import { seconds } from '../core/written'

type Opening = RevealDocument['opening']

// Script is the reveal as a written list: the opening, then the steps. It reads
// like the manual that it will become.
export function Script() {
  const doc = useSession((s) => s.doc)
  const revealId = useSession((s) => s.revealId)
  const schedule = useSession((s) => s.schedule)
  const selection = useSession((s) => s.selection)
  const assembly = useSession((s) => s.assembly)
  const { run, select } = useSession.getState()
  const running = useRunning()
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }))
  if (!doc || !schedule) return null

  // Alt and an arrow move a step from the keyboard.
  const move = (id: string, by: number) => {
    const i = doc.steps.findIndex((s) => s.id === id) + by
    if (i < 0 || i >= doc.steps.length || !run({ op: 'moveStep', stepId: id, index: i })) return
    requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-step="${id}"] button`)?.focus())
  }
  const drop = (e: DragEndEvent) => {
    if (!e.over || e.active.id === e.over.id) return
    run({ op: 'moveStep', stepId: String(e.active.id), index: doc.steps.findIndex((s) => s.id === e.over!.id) })
  }

  return (
    <section id="script" tabIndex={-1} aria-label="Script" className="scroll h-full min-h-0 bg-sheet">
      <header className="border-b border-hair px-[18px] pt-4 pb-3">
        <Words
          key={revealId}
          value={doc.title}
          label="Title of the reveal"
          onChange={(title) => run({ op: 'setTitle', title })}
          className="serif text-[20px] leading-tight font-semibold"
        />
        <p className="mt-0.5 text-[12px] text-ink-2">
          {doc.steps.length === 1 ? '1 step' : `${doc.steps.length} steps`} · {seconds(schedule.duration, 1)} ·{' '}
          {schedule.frames.toLocaleString('en')} frames at {doc.frame.rate}
        </p>
      </header>
      <button
        type="button"
        data-walk
        tabIndex={selection.opening || doc.steps.length === 0 ? 0 : -1}
        onKeyDown={walkSteps}
        onClick={() => {
          select({ opening: true })
          useTransport.getState().seek(0)
        }}
        className={clsx(
          'relative flex w-full gap-3 border-b border-hair px-[18px] py-3 text-left hover:bg-white/60 focus-visible:-outline-offset-2',
          selection.opening && 'bg-white',
        )}
      >
        <span className="serif w-[22px] text-[17px] text-ink-3">–</span>
        <span className="min-w-0 grow">
          <span className="flex items-baseline justify-between gap-2">
            <b className="font-semibold">Opening</b>
            <span className="mono text-[11.5px] text-ink-2">{doc.opening.camera.focalLength} mm</span>
          </span>
          <span className="block text-[12px] text-ink-2">{openingWords(doc.opening, assembly)}</span>
        </span>
        {selection.opening && <Mark />}
      </button>
      <DndContext
        sensors={sensors}
        autoScroll={{ acceleration: 4, threshold: { x: 0, y: 0.08 } }}
        collisionDetection={closestCenter}
        onDragEnd={drop}
      >
        <SortableContext items={doc.steps.map((s) => s.id)} strategy={verticalListSortingStrategy}>
          {doc.steps.map((step, i) => (
            <StepEntry
              key={step.id}
              step={step}
              number={i + 1}
              picked={selection.step === step.id}
              stop={selection.opening ? false : selection.step ? selection.step === step.id : i === 0}
              running={running === i}
              start={schedule.steps[i]!.start}
              move={(by) => move(step.id, by)}
            />
          ))}
        </SortableContext>
      </DndContext>
      {doc.steps.length === 0 && (
        <div className="serif px-[18px] py-6 text-[14px] leading-relaxed text-ink-2">
          <p>
            Nothing happens yet. Pick a part on the stage and choose where it goes: the first step writes itself. Or
            have a teardown planned, and change what you like.
          </p>
        </div>
      )}
      <div className="flex flex-wrap gap-2 px-[18px] py-4">
        <Button onClick={() => addStep(selection.step ?? undefined)}>
          <Plus size={13} /> Step
        </Button>
        <Tip text="Order, directions and distances are computed, from the playhead on: to accept, change or refuse">
          <Button onClick={() => void openPlan()}>
            <ListTree size={13} /> Plan a teardown
          </Button>
        </Tip>
        {doc.steps.some((s) => (s.cues ?? []).length > 0) && (
          <Button kind="quiet" onClick={backTogether}>
            <Rewind size={13} /> Back together
          </Button>
        )}
      </div>
    </section>
  )
}

// openingWords says how the opening differs from the assembly as it was imported.
function openingWords(o: Opening, assembly: Assembly | null): string {
  const said = [
    o.suppressed?.length ? `${namesOf(assembly, o.suppressed)} left out` : '',
    o.poses?.length
      ? `${namesOf(
          assembly,
          o.poses.map((p) => p.node),
        )} not in place`
      : '',
    o.opacities?.length
      ? `${namesOf(
          assembly,
          o.opacities.map((p) => p.node),
        )} faded`
      : '',
    o.tints?.length
      ? `${namesOf(
          assembly,
          o.tints.map((p) => p.node),
        )} tinted`
      : '',
    o.surfaces?.length
      ? `${namesOf(
          assembly,
          o.surfaces.map((p) => p.node),
        )} drawn otherwise`
      : '',
  ].filter(Boolean)
  return said.length > 0 ? said.join(', ') : 'Everything is there, in its place'
}
