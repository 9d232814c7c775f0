import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { answer, api, words, type Output } from '../api/client'
import { Renewal } from '../phases/Renewal'
import { useOutputs } from '../phases/outputs'
import { useSession } from '../session/session'
import { Button } from '../ui/controls'
import { Findings, Proven } from './Findings'
import { Form } from './Form'
import { Matrix } from './Matrix'
import { Line } from './Outputs'
import { Sets } from './Sets'
import { draftNow, order, useOrder } from './settings'
import { lasting, megabytes, seconds } from '../core/written'

// Release: choose what to make, watch it being made, look at it and take it along.
export function Release() {
  const outputs = useOutputs()
  const behind = (outputs.data ?? []).filter((o) => o.due)
  const running = outputs.data?.filter((o) => o.state === 'running' || o.state === 'waiting').length ?? 0
  return (
    <div className="grid h-full min-h-0 grid-cols-[360px_minmax(0,1fr)] max-[820px]:block max-[820px]:overflow-y-auto">
      <Ordering />
      <section aria-label="Outputs" className="scroll min-h-0 px-8 py-6 max-[820px]:px-4">
        <div className="mb-3 flex items-baseline gap-3">
          <h2 className="serif text-[20px] font-semibold">Outputs</h2>
          {running > 0 && (
            <span className="text-ink-2">{running === 1 ? 'One on the way' : `${running} on the way, in turns`}</span>
          )}
        </div>
        <Renewal className="mb-4" due={behind.length} label="Renew all that is out of date" />
        <Ended outputs={outputs.data ?? []} />
        {outputs.isError && (
          <p role="alert" className="text-signal-ink">
            {words(outputs.error)}
          </p>
        )}
        {outputs.data?.length === 0 && (
          <p className="serif max-w-[46ch] text-[15px] leading-relaxed text-ink-2">
            Nothing has been made of this product yet. A draft is ready soonest: it shows whether the timing is right.
          </p>
        )}
        {outputs.data && <Matrix outputs={outputs.data} />}
        {outputs.data && outputs.data.length > 0 && (
          <ul className="max-w-[1100px] border-t border-line">
            {outputs.data.map((o) => (
              <Line key={o.id} output={o} />
            ))}
          </ul>
        )}
      </section>
    </div>
  )
}

// Ended says which outputs have come to an end, for who does not see the list.
function Ended({ outputs }: { outputs: readonly Output[] }) {
  const known = useRef<Map<string, string> | null>(null)
  const [said, setSaid] = useState('')
  useEffect(() => {
    const ends: Record<string, string> = { done: 'is finished', failed: 'has failed', cancelled: 'was stopped' }
    const now = outputs.filter((o) => ends[o.state] && known.current?.has(o.id) && known.current.get(o.id) !== o.state)
    if (now.length > 0) setSaid(now.map((o) => `${o.title} ${ends[o.state]}.`).join(' '))
    if (outputs.length > 0 || known.current) known.current = new Map(outputs.map((o) => [o.id, o.state]))
  }, [outputs])
  return (
    <p role="status" className="sr-only">
      {said}
    </p>
  )
}

function Ordering() {
  const doc = useSession((s) => s.doc)
  const schedule = useSession((s) => s.schedule)
  const saving = useSession((s) => s.saving)
  const pictured = useSession((s) => s.pictured) // counts with the reveal's versions
  const revealId = useSession((s) => s.revealId)
  const project = useSession((s) => s.project)!
  const client = useQueryClient()
  const { settings, variants, add } = useOrder(
    useShallow(({ settings, variants, add }) => ({ settings, variants, add })),
  )
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const ready = doc !== null && schedule !== null && schedule.duration > 0 && saving === 'saved'
  const expected = useQuery({
    queryKey: ['expected', revealId, pictured, settings, variants[0]],
    enabled: ready,
    retry: false,
    placeholderData: (old) => old,
    queryFn: () =>
      answer(
        api.POST('/api/reveals/{id}/outputs/estimate', {
          params: { path: { id: revealId! } },
          body: { ...settings, variant: variants[0] ?? settings.variant },
        }),
      ),
  })
  const outrun = (schedule?.steps ?? []).flatMap((x, i) =>
    x.late
      ? [
          {
            at: x.start,
            selection: { step: x.step },
            text: `${doc?.steps[i]?.title || `step ${i + 1}`} (by ${seconds(x.late)})`,
          },
        ]
      : [],
  )
  const startOf = (step: string) => schedule?.steps.find((x) => x.step === step)?.start ?? 0
  const lacks = expected.data?.lacks ?? ''
  const setLacking = useOrder((s) => s.setLacking)
  useEffect(() => setLacking(lacks !== ''), [lacks, setLacking])
  if (!doc || !schedule) return <aside className="border-r border-line bg-sheet" />
  const refresh = () => client.invalidateQueries({ queryKey: ['outputs', project.id] })
  const make = async () => {
    setBusy(true)
    setProblem(await order([settings], { variants }))
    await refresh()
    setBusy(false)
  }
  const e = expected.data
  return (
    <aside aria-label="What to make" className="flex min-h-0 flex-col border-r border-line bg-sheet">
      <div className="scroll min-h-0 grow px-6 py-5 max-[420px]:px-4">
        <h2 className="serif text-[20px] leading-tight font-semibold">{doc.title}</h2>
        <div className="mt-0.5 mb-4 flex items-center justify-between gap-2">
          <p className="text-ink-2">
            {seconds(schedule.duration)}, {doc.steps.length === 1 ? 'one step' : `${doc.steps.length} steps`}
          </p>
          <Button disabled={!ready} onClick={() => void draftNow().then(refresh)}>
            Draft now
          </Button>
        </div>
        <Form />
        <Sets onMade={() => void refresh()} />
      </div>
      <div className="border-t border-line bg-sheet px-6 py-4">
        {expected.isError ? (
          <p role="alert" className="mb-3 text-signal-ink">
            {words(expected.error)}
          </p>
        ) : (
          e &&
          (e.frames > 1 || e.bytes > 0) && (
            <p className="mb-2.5 text-ink-2">
              {e.frames > 1 && (
                <>
                  <span className="mono text-ink">{e.frames.toLocaleString('en')}</span>{' '}
                  {settings.kind === 'stills' ? (
                    'moments. '
                  ) : (
                    <>
                      frames,{' '}
                      <span className="mono text-ink" title="Hours, minutes, seconds and frames of its end">
                        {e.timecode}
                      </span>
                      .{' '}
                    </>
                  )}
                </>
              )}
              {e.bytes > 0 && <>About {megabytes(e.bytes)}. </>}
              {e.frames > 1 && (
                <>
                  {e.learned ? 'As earlier ones, it takes' : 'It takes perhaps'} {lasting(e.seconds)}.
                </>
              )}
            </p>
          )
        )}
        {!expected.isError && (e?.tooFast.length ?? 0) > 0 && (
          <Findings
            text="Too little time to read:"
            found={e!.tooFast.map((h) => ({
              at: startOf(h.step),
              selection: { step: h.step },
              text: `${h.title || 'a step without a title'} (${seconds(h.has, 1)} of ${seconds(h.needs, 1)})`,
            }))}
          />
        )}
        {/* As high while it is being looked at as when it is known: what stands above must not move under a hand. */}
        <div className="min-h-[78px]">{ready && <Proven />}</div>
        {outrun.length > 0 && <Findings text="Cues end later than their step:" found={outrun} />}
        {!expected.isError && lacks !== '' && (
          <p className="mb-3 text-[12.5px] text-signal-ink">
            No font has the signs <span className="text-ink">{[...lacks].slice(0, 12).join(' ')}</span>: attach one that
            has them under Background{settings.boxes ? '; until then they are boxes' : ', or allow boxes there'}.
          </p>
        )}
        <div className="flex gap-2">
          <Button
            kind="strong"
            className="h-9 grow text-[13.5px]"
            disabled={busy || !ready || expected.isError || (lacks !== '' && !settings.boxes)}
            onClick={() => void make()}
          >
            {busy
              ? 'Queueing…'
              : variants.length > 1
                ? `Make all ${variants.length}`
                : settings.kind === 'film'
                  ? 'Make the film'
                  : 'Make it'}
          </Button>
          <Button className="h-9" disabled={!ready || expected.isError} onClick={add}>
            Add to a set
          </Button>
        </div>
        {schedule.duration === 0 && (
          <p className="mt-2 text-ink-2">This reveal has no step yet: write one in Direct.</p>
        )}
        {problem && (
          <p role="alert" className="mt-2 text-signal-ink">
            {problem}
          </p>
        )}
      </div>
    </aside>
  )
}
