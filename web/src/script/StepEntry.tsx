import { useSortable } from '@dnd-kit/sortable'
import clsx from 'clsx'
import { TriangleAlert } from 'lucide-react'
import type { Step } from '../api/client'
import { usePlan } from '../plan/plan'
import { bare } from '../session/actions'
import { useOutrun } from '../session/steps'
import { useSession } from '../session/session'
import { openStepMenu } from '../timeline/menus'
import { useTransport } from '../session/transport'
import { asked, useShownVariant } from '../session/variants'
import { Menu } from '../ui/controls'
import { Glyph, kindNames } from '../ui/glyphs'
import { css, useSigns } from '../ui/signs'
import { walkSteps } from './walk'
import { Words } from './Words'
import { seconds } from '../core/written'

const signals = ['DANGER', 'WARNING', 'CAUTION', 'NOTICE'] as const

export const Mark = () => <span aria-hidden className="absolute inset-y-0 left-0 w-1 bg-signal" />

export function StepEntry({
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
  const idle = useSession((s) => !step.muted && (s.schedule?.steps[number - 1]?.muted ?? false))
  const variant = useShownVariant()
  const own = variant && step.wordings?.find((w) => w.variant === variant.id)
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
        (step.muted || idle) && '[&_img]:opacity-40',
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
            className={clsx(
              'min-h-6 text-[13.5px] leading-6 font-semibold',
              step.muted && 'text-ink-2 line-through',
              idle && 'text-ink-3',
            )}
          />
          <span
            className={clsx('mono shrink-0 text-[11.5px]', outrun ? 'text-signal-ink' : 'text-ink-2')}
            title={outrun ?? undefined}
          >
            {outrun && <TriangleAlert size={11} aria-label={outrun} className="mr-0.5 mb-0.5 inline" />}
            {seconds(lasts)}
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
        {own && (
          <p className="mt-1 border-l-2 border-advice pl-2 text-[12.5px] text-ink-2">
            In “{variant!.name}”: {[own.title, own.instruction].filter(Boolean).join('. ')}
          </p>
        )}
        {idle && <p className="text-[12px] text-ink-2">Nothing to do in “{variant?.name}”: it takes no time there.</p>}
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
  const variant = useSession((s) => s.variant)
  const arranged = useSession((s) => s.arrangement?.version ?? 0)
  const aspect = useSession((s) => (s.doc ? s.doc.frame.width / s.doc.frame.height : 1))
  const planned = usePlan((p) => p.shown.some((x) => x.step === step)) // there is no picture of what is not in the reveal
  if (!id || version < 0 || planned) return null
  return (
    <img
      src={`/api/reveals/${id}/steps/${step}/picture?version=${version}&arranged=${arranged}&variant=${encodeURIComponent(asked(variant))}`}
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
