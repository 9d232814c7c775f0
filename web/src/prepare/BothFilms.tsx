// The film on the revision before and on the one of now, moment by moment.
import { useState } from 'react'
import { asked } from '../session/variants'
import { useSession } from '../session/session'
import { Button, Dialog } from '../ui/controls'
import { useSettled } from '../ui/settled'
import { seconds } from '../core/written'

/** BothFilms compares what a reveal shows of the revision before with what it shows now. */
export function BothFilms() {
  const [open, setOpen] = useState(false)
  const reveal = useSession((s) => s.revealId)
  const lasts = useSession((s) => s.schedule?.duration ?? 0)
  if (!reveal) return null
  return (
    <>
      <Button disabled={lasts === 0} onClick={() => setOpen(true)}>
        Compare the films…
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} title="The film before and now" size="window">
        <Compared reveal={reveal} />
      </Dialog>
    </>
  )
}

const views = [
  { shows: 'before', title: 'Revision before' },
  { shows: 'now', title: 'Now' },
  { shows: 'difference', title: 'What is otherwise, in red' },
] as const

function Compared({ reveal }: { reveal: string }) {
  const doc = useSession((s) => s.doc)!
  const schedule = useSession((s) => s.schedule)!
  const variant = useSession((s) => s.variant)
  const version = useSession((s) => s.pictured)
  const arranged = useSession((s) => s.arrangement?.version ?? 0)
  const last = Math.max(0, schedule.duration - 1)
  const steps = schedule.steps.filter((s) => !s.muted)
  const ends = steps.map((s) => Math.min(last, s.start + s.duration - 1))
  const [at, setAt] = useState(ends[0] ?? 0)
  const shown = useSettled(at, 250)
  const path = (shows: string, time: number) =>
    `/api/reveals/${reveal}/revised/${shows}?time=${Math.round(time)}&version=${version}&arranged=${arranged}&variant=${encodeURIComponent(asked(variant))}`
  return (
    <div className="flex min-h-0 flex-col gap-4">
      <div className="grid grid-cols-3 gap-3 max-[820px]:grid-cols-1">
        {views.map((v) => (
          <figure key={v.shows} className="min-w-0">
            <Picture src={path(v.shows, shown)} alt={`${v.title}, at ${seconds(shown, 1)}`} />
            <figcaption className="mt-1 text-[12.5px] text-ink-2">{v.title}</figcaption>
          </figure>
        ))}
      </div>
      <label className="flex items-center gap-3">
        <span className="mono w-[64px] shrink-0 text-right">{seconds(at)}</span>
        <input
          type="range"
          aria-label="Moment"
          className="grow accent-ink"
          min={0}
          max={last}
          step={40_000}
          value={at}
          onChange={(e) => setAt(Number(e.target.value))}
        />
      </label>
      <section aria-label="How each step ends">
        <h3 className="mb-1.5 font-semibold">How each step ends</h3>
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-2.5">
          {steps.map((s, i) => {
            const title = doc.steps.find((x) => x.id === s.step)?.title || `Step ${i + 1}`
            return (
              <li key={s.step}>
                <button
                  type="button"
                  aria-pressed={at === ends[i]}
                  onClick={() => setAt(ends[i]!)}
                  className="w-full rounded-md border border-line p-1 text-left hover:border-ink-3 aria-pressed:border-ink"
                >
                  <Picture src={path('difference', ends[i]!)} alt="" />
                  <span className="mt-1 block truncate text-[12px]" title={title}>
                    {title}
                  </span>
                </button>
              </li>
            )
          })}
        </ul>
      </section>
    </div>
  )
}

// Picture keeps the last picture until the next one is there; one that cannot be drawn says so.
function Picture({ src, alt }: { src: string; alt: string }) {
  const [lost, setLost] = useState('')
  if (lost === src)
    return (
      <p
        role="alert"
        className="grid aspect-video place-items-center bg-stage px-3 text-center text-[12.5px] text-signal-ink"
      >
        It cannot be drawn: the reveal does not fit that revision, or the server is away.
      </p>
    )
  return (
    <img
      src={src}
      alt={alt}
      loading="lazy"
      className="aspect-video w-full border border-line bg-stage object-contain"
      onError={() => setLost(src)}
    />
  )
}
