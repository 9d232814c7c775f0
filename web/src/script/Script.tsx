import { DndContext, PointerSensor, closestCenter, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core'
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import clsx from 'clsx'
import { ListTree, Plus, Rewind, TriangleAlert } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import type { Assembly, RevealDocument, Step } from '../api/client'
import { openPlan, usePlan } from '../plan/plan'
import { bare } from '../session/actions'
import { addStep, backTogether, useOutrun } from '../session/steps'
import { namesOf, useSession } from '../session/session'
import { openStepMenu } from '../timeline/menus'
import { useRunning, useTransport } from '../session/transport'
import { Button, Menu, Tip } from '../ui/controls'
import { formatted } from '../ui/NumberField'
import { Glyph, kindNames } from '../ui/glyphs'
import { Prose } from '../ui/Prose'
import { nextOf, typeAhead } from '../ui/roving'
import { css, useSigns } from '../ui/signs'
import { useWriting } from '../session/writing'

type Opening = RevealDocument['opening']

const signals = ['DANGER', 'WARNING', 'CAUTION', 'NOTICE'] as const

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
          {doc.steps.length === 1 ? '1 step' : `${doc.steps.length} steps`} ·{' '}
          <span className="mono">{(schedule.duration / 1e6).toFixed(1)}</span> s ·{' '}
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

// walkSteps goes with arrows, Home and End from one step to the next, and by letters with Shift to one by its title.
function walkSteps(e: React.KeyboardEvent) {
  const all = [...document.querySelectorAll<HTMLElement>('#script [data-walk]')]
  const at = all.indexOf(e.currentTarget as HTMLElement)
  let to = nextOf(e, at, all.length, 'ArrowUp', 'ArrowDown')
  if (to < 0 && e.shiftKey)
    to = typeAhead(
      e,
      all.map((b) => b.closest('article')?.querySelector('textarea')?.value ?? 'Opening'),
      at,
    )
  if (to < 0) return
  e.preventDefault()
  e.stopPropagation()
  all[to]!.focus()
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

const Mark = () => <span aria-hidden className="absolute inset-y-0 left-0 w-1 bg-signal" />

function StepEntry({
  step,
  number,
  picked,
  stop,
  running,
  start,
  move,
}: {
  step: Step
  number: number
  picked: boolean
  stop: boolean
  running: boolean
  start: number
  move(by: number): void
}) {
  const { run, select } = useSession.getState()
  const doc = useSession((s) => s.doc)!
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: step.id })
  const set = (change: Partial<Step>) => run({ op: 'setStep', step: bare(step, change) })
  const cues = step.cues ?? []
  const lasts = useSession((s) =>
    step.muted ? step.duration : (s.schedule?.steps[number - 1]?.duration ?? step.duration),
  )
  const kinds = [...new Set(cues.map((c) => c.kind))].map((kind) => ({
    kind,
    n: cues.filter((c) => c.kind === kind).reduce((n, c) => n + Math.max(1, c.targets?.length ?? 1), 0),
  }))
  const retraced = (step.retrace?.steps ?? [])
    .map((id) => doc.steps.findIndex((s) => s.id === id) + 1)
    .filter((n) => n > 0)
  const outrun = useOutrun(number - 1)
  const toStart = () => {
    select({ step: step.id })
    useTransport.getState().seek(start)
  }
  const rest = {
    'aria-roledescription': attributes['aria-roledescription'],
    'aria-describedby': attributes['aria-describedby'],
  }

  return (
    <article
      ref={setNodeRef}
      {...rest}
      data-step={step.id}
      aria-label={`Step ${number}: ${step.title}`}
      aria-current={running ? 'step' : undefined}
      style={{ transform: transform ? `translate3d(0, ${transform.y}px, 0)` : undefined, transition }}
      onInput={
        () => !picked && select({ step: step.id }) /* who writes in a step works on it; who only comes by does not */
      }
      onContextMenu={(e) => {
        if (!(e.target as HTMLElement).closest('textarea')) {
          e.preventDefault()
          openStepMenu({ x: e.clientX, y: e.clientY }, step.id)
        }
      }}
      className={clsx(
        'group relative flex gap-3 border-b border-hair px-[18px] py-3',
        picked ? 'bg-white' : 'hover:bg-white/60',
        isDragging && 'z-10 bg-white shadow-lg',
        step.muted && '[&_img]:opacity-40',
      )}
    >
      {picked && <Mark />}
      <button
        type="button"
        data-walk
        tabIndex={stop ? 0 : -1}
        {...listeners}
        onClick={toStart}
        aria-label={`Go to step ${number}; drag it, or press Alt and an arrow, to move it`}
        onMouseDown={(e) => e.preventDefault() /* with the focus the step would unfold under the drag */}
        onKeyDown={(e) => {
          if (!e.altKey) return walkSteps(e)
          if (e.key !== 'ArrowUp' && e.key !== 'ArrowDown') return
          e.preventDefault()
          move(e.key === 'ArrowUp' ? -1 : 1)
        }}
        className={clsx(
          'serif h-6 w-[22px] shrink-0 cursor-grab text-left text-[17px] leading-6',
          running ? 'font-semibold text-signal-ink' : 'text-ink-3',
        )}
      >
        {number}
      </button>
      <div className="min-w-0 grow" onClick={() => !picked && toStart()}>
        <div className="flex items-baseline gap-2">
          <Words
            value={step.title}
            label="Title of the step"
            placeholder="Title"
            onChange={(title) => set({ title })}
            className={clsx('min-h-6 text-[13.5px] leading-6 font-semibold', step.muted && 'text-ink-2 line-through')}
          />
          <span
            className={clsx('mono shrink-0 text-[11.5px]', outrun ? 'text-signal-ink' : 'text-ink-2')}
            title={outrun ?? undefined}
          >
            {outrun && <TriangleAlert size={11} aria-label={outrun} className="mr-0.5 mb-0.5 inline" />}
            {formatted(lasts / 1e6, 'time', 1)}
          </span>
        </div>
        <Words
          value={step.instruction ?? ''}
          label="Instruction"
          placeholder={picked ? 'What is to be done?' : ''}
          multiline
          prose
          onChange={(instruction) => set({ instruction: instruction || undefined })}
          className="serif text-[13.5px] leading-[1.45] text-ink-2"
        />
        <Picture step={step.id} />
        {step.notice && <Warning notice={step.notice} onChange={(notice) => set({ notice })} />}
        {step.tools?.length || (picked && step.retrace === undefined) ? (
          <div className="mt-1.5 flex items-baseline gap-1.5 text-[12px] text-ink-2">
            <span className="shrink-0">Tools:</span>
            <Words
              value={(step.tools ?? []).join(', ')}
              label="Tools, separated by commas"
              placeholder="none"
              onChange={(t) => {
                const tools = t
                  .split(',')
                  .map((x) => x.trim())
                  .filter(Boolean)
                return set({ tools: tools.length > 0 ? tools : undefined })
              }}
              className="min-h-6 leading-6"
            />
          </div>
        ) : null}
        {step.retrace && (
          <p className="mt-1 text-[12px] text-ink-2">
            ↶ Runs{' '}
            {retraced.length > 1
              ? `steps ${retraced[0]}–${retraced[retraced.length - 1]}`
              : `step ${retraced[0] ?? '–'}`}{' '}
            backwards{step.retrace.speed ? `, ${step.retrace.speed} × as fast` : ''}
          </p>
        )}
        {picked && (
          <div className="mt-2 flex flex-wrap items-center gap-1">
            {kinds.map((k) => (
              <button
                key={k.kind}
                type="button"
                onClick={(e) => {
                  e.stopPropagation()
                  select({ cues: cues.filter((c) => c.kind === k.kind).map((c) => c.id) })
                }}
                className="inline-flex min-h-6 items-center gap-1 rounded-[3px] border border-line px-1.5 text-[11px] text-ink-2 hover:border-ink-3 hover:text-ink"
              >
                <Glyph kind={k.kind} size={11} />
                {kindNames[k.kind]?.toLowerCase()}
                {k.n > 1 && ` ×${k.n}`}
              </button>
            ))}
            {!step.notice && (
              <button
                type="button"
                onClick={() => set({ notice: { signal: 'CAUTION', text: 'Say what is dangerous.' } })}
                className="min-h-6 rounded-[3px] px-1.5 text-[11px] text-ink-3 hover:bg-hair hover:text-ink"
              >
                + notice
              </button>
            )}
          </div>
        )}
      </div>
    </article>
  )
}

// Warning is the notice of a step.
function Warning({ notice, onChange }: { notice: NonNullable<Step['notice']>; onChange(n: Step['notice']): boolean }) {
  const sign = useSigns()[notice.signal]
  return (
    <div className="mt-1.5 flex items-start gap-2">
      <Menu
        label="Signal word"
        actions={[
          ...signals.map((signal) => ({ text: signal, run: () => onChange({ ...notice, signal }) })),
          { text: 'Remove the notice', run: () => onChange(undefined) },
        ]}
      >
        <button
          type="button"
          className="mt-px shrink-0 rounded-[2px] px-1.5 py-px text-[10.5px] leading-4 font-bold tracking-wide"
          style={sign && { background: css(sign.panel), color: css(sign.letters) }}
        >
          {notice.signal}
        </button>
      </Menu>
      <Words
        value={notice.text}
        label="Text of the notice"
        multiline
        onChange={(text) => !text || onChange({ ...notice, text })}
        className="text-[12px] leading-[1.4]"
      />
    </div>
  )
}

// Picture is how the step ends. It is drawn anew when the reveal has rested for a
// moment after a change.
function Picture({ step }: { step: string }) {
  const id = useSession((s) => s.revealId)
  const version = useSession((s) => s.pictured)
  const aspect = useSession((s) => (s.doc ? s.doc.frame.width / s.doc.frame.height : 1))
  const planned = usePlan((p) => p.shown.some((x) => x.step === step)) // there is no picture of what is not in the reveal
  if (!id || version < 0 || planned) return null
  return (
    <img
      src={`/api/reveals/${id}/steps/${step}/picture?version=${version}`}
      alt=""
      onError={(e) => (e.currentTarget.hidden = true)}
      onLoad={(e) => (e.currentTarget.hidden = false)}
      loading="lazy"
      width={96}
      height={Math.round(96 / aspect)}
      className="mt-1.5 border border-hair bg-sheet-2"
      style={{ width: 96, aspectRatio: aspect }}
    />
  )
}

// Words are text that is edited where it stands and never looks like a form.
function Words({
  value,
  onChange,
  label,
  placeholder,
  multiline,
  prose,
  className,
}: {
  value: string
  onChange(v: string): boolean
  label: string
  placeholder?: string
  multiline?: boolean
  prose?: boolean
  className?: string
}) {
  const { text, write, forget, done } = useWriting(value, label, onChange)
  const [editing, setEditing] = useState(false)
  const area = useRef<HTMLTextAreaElement>(null)
  useEffect(() => {
    const a = area.current
    if (!a) return
    a.style.height = '0'
    a.style.height = `${a.scrollHeight}px`
  }, [text, placeholder, editing])
  const take = () => {
    setEditing(false)
    done()
  }
  if (!text && !placeholder && multiline) return null
  // At rest it reads; with the focus it is written.
  if (prose && text && !editing) {
    return (
      <div
        role="textbox"
        aria-multiline
        tabIndex={0}
        aria-label={label}
        onFocus={() => setEditing(true)}
        onClick={() => setEditing(true)}
        className={clsx('min-h-6 cursor-text', className)}
      >
        <Prose text={text} />
      </div>
    )
  }
  return (
    <textarea
      ref={area}
      rows={1}
      autoFocus={editing}
      onFocus={() => setEditing(true)}
      value={text}
      aria-label={label}
      placeholder={placeholder}
      spellCheck
      onChange={(e) => write(multiline ? e.target.value : e.target.value.replace(/\n/g, ' '))}
      onBlur={take}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter' && (!multiline || e.ctrlKey)) {
          e.preventDefault()
          e.currentTarget.blur()
        }
        if (e.key === 'Escape') {
          forget()
          requestAnimationFrame(() => area.current?.blur())
        }
      }}
      className={clsx(
        'block min-h-6 w-full resize-none overflow-hidden rounded-[2px] bg-transparent p-0 placeholder:text-ink-3 focus:bg-sheet-2 focus-visible:outline-1 focus-visible:outline-offset-2',
        className,
      )}
    />
  )
}
