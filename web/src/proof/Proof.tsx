import { useQuery } from '@tanstack/react-query'
import clsx from 'clsx'
import { useEffect, useMemo, useRef, useState } from 'react'
import { answer, api, words, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Choice, Select } from '../ui/controls'
import { Looked } from './Looked'
import { accept, keyOf, lead, mend } from './acts'
import { Mark } from './Mark'
import { One } from './One'
import { counted, levels, ofLevel, openOnes, pictureOf, useProof, type Finding, type Level } from './proof'
import { seconds } from '../core/written'

type Shown = 'open' | Level | 'accepted'

// Proof: what is wrong with the film, what helps, and what is meant so.
export function Proof() {
  const doc = useSession((s) => s.doc)!
  const revealId = useSession((s) => s.revealId)!
  const variant = useSession((s) => s.variant)
  const duration = useSession((s) => s.schedule?.duration ?? 0)
  const arranged = useSession((s) => s.arrangement?.version ?? 0)
  const proof = useProof(true)
  const checks = useQuery({
    queryKey: ['checks'],
    staleTime: Infinity,
    queryFn: () => answer(api.GET('/api/proof/checks')),
  })
  const [shown, setShown] = useState<Shown>('open')
  const [check, setCheck] = useState('all')
  const [picked, setPicked] = useState<Finding | null>(null)
  const state = proof.data
  const outcome = state?.report
  const list = useMemo(
    () =>
      (outcome?.findings ?? []).filter(
        (f) =>
          (shown === 'accepted' ? f.accepted : !f.accepted && (shown === 'open' || f.level === shown)) &&
          (check === 'all' || f.check === check),
      ),
    [outcome, shown, check],
  )
  // The same one, or what has become of it in another version.
  const same = picked ? list.findIndex((f) => f.key === picked.key) : -1
  const at = Math.max(0, same < 0 && picked ? list.findIndex((f) => keyOf(f) === keyOf(picked)) : same)
  const one = list[at]
  const pictured = (f: Finding, mend?: number) => pictureOf(revealId, variant, state?.version ?? 0, arranged, f, mend)
  const title = (name: string) => checks.data?.find((c) => c.name === name)?.title ?? name
  const section = useRef<HTMLDivElement>(null)
  const pick = (k: number, focus = true) => {
    const n = list[Math.max(0, Math.min(k, list.length - 1))]
    if (!n) return
    setPicked(n)
    if (focus)
      requestAnimationFrame(() =>
        section.current?.querySelector<HTMLElement>('[data-finding][aria-current=true]')?.focus(),
      )
  }
  const onKey = (e: KeyboardEvent) => {
    if (
      (e.target as HTMLElement).closest(
        'input, textarea, header, [role=combobox], [role=group], [role=dialog], [role=menu], [role=listbox]',
      ) ||
      e.ctrlKey ||
      e.metaKey ||
      e.altKey
    )
      return
    const run: Record<string, () => void> = {
      ArrowDown: () => pick(at + 1),
      ArrowUp: () => pick(at - 1),
      Home: () => pick(0),
      End: () => pick(list.length - 1),
      g: () => one && lead(one),
      m: () => one?.mends?.[0] && mend(one.mends[0]),
      a: () => one && !one.accepted && document.getElementById('reason')?.focus(),
      o: () => one?.accepted && accept(one, ''),
    }
    const f = run[e.key]
    if (!f) return
    e.preventDefault()
    f()
  }
  const keyed = useRef(onKey)
  useEffect(() => void (keyed.current = onKey))
  useEffect(() => {
    const key = (e: KeyboardEvent) => keyed.current(e)
    window.addEventListener('keydown', key)
    return () => window.removeEventListener('keydown', key)
  }, [])
  if (duration === 0)
    return (
      <p className="p-10 text-ink-2">
        This reveal has no step yet: write one in Direct. What is wrong with it is said here.
      </p>
    )
  const counts = Object.fromEntries(levels.map((l) => [l, openOnes(outcome, l).length])) as Record<Level, number>
  const options = [
    { value: 'open', text: `All ${openOnes(outcome).length}` },
    { value: 'fault', text: ofLevel(counts.fault, 'fault') },
    { value: 'warning', text: ofLevel(counts.warning, 'warning') },
    { value: 'hint', text: ofLevel(counts.hint, 'hint') },
    { value: 'accepted', text: 'Accepted' },
  ] as const
  return (
    <div
      ref={section}
      className="grid h-full min-h-0 grid-cols-[420px_minmax(0,1fr)] max-[900px]:block max-[900px]:overflow-y-auto"
    >
      <section aria-label="Findings" className="flex min-h-0 flex-col border-r border-line bg-sheet">
        <div className="shrink-0 border-b border-hair px-5 pt-4 pb-3">
          <h2 className="serif text-[20px] leading-tight font-semibold">
            {outcome && (state?.looked || openOnes(outcome).length > 0)
              ? openOnes(outcome).length > 0
                ? `${counted(outcome)[0]!.toUpperCase()}${counted(outcome).slice(1)}`
                : 'Nothing is wrong'
              : 'Looking at the film…'}
          </h2>
          <Progress
            done={state?.done ?? 0}
            stale={proof.isPlaceholderData || (state !== undefined && state.done < 1)}
            found={state?.looked ?? false}
            all={
              outcome
                ? `${outcome.pairs.toLocaleString('en')} pairs of parts, ${seconds(outcome.duration, 1)}, ${checks.data?.length ?? 0} checks`
                : ''
            }
          />
          {proof.isError && (
            <p role="alert" className="mt-1 text-signal-ink">
              {words(proof.error)}
            </p>
          )}
          <Choice
            label="Which findings"
            value={shown}
            onChange={(v: Shown) => setShown(v)}
            options={options}
            className="mt-2.5 w-full max-[440px]:h-auto max-[440px]:flex-wrap [&>button]:h-7"
          />
          <Select
            label="Of which check"
            value={check}
            onChange={setCheck}
            options={[
              { value: 'all', text: 'Of every check' },
              ...(checks.data ?? []).map((c) => ({ value: c.name, text: c.title })),
            ]}
            className="mt-2 w-full"
          />
        </div>
        <List
          list={list}
          at={at}
          doc={doc}
          title={title}
          picture={pictured}
          onPick={pick}
          empty={state?.looked ?? false}
          shown={shown}
        />
      </section>
      <section aria-label="The finding" className="scroll relative min-h-0 px-8 py-6 max-[820px]:px-4">
        {one && state ? (
          <One
            key={one.key}
            finding={one}
            title={title(one.check)}
            picture={pictured}
            searching={state.done < 1}
            together={outcome?.together}
          />
        ) : (
          state?.looked && (
            <p className="serif max-w-[52ch] text-[16px] leading-relaxed text-ink-2">
              {shown === 'open' && check === 'all'
                ? 'Nothing is wrong with this film, as far as can be computed: look at it once more all the same.'
                : 'Nothing of this kind.'}
            </p>
          )
        )}
        {state?.looked && outcome && <Looked outcome={outcome} checks={checks.data ?? []} />}
      </section>
    </div>
  )
}

function Progress({ done, stale, found, all }: { done: number; stale: boolean; found: boolean; all: string }) {
  const text = !stale ? all : found ? 'Looking for what mends it…' : `${Math.round(100 * done)} % looked at`
  return (
    <div className="mt-1 h-5">
      <p role="status" className="text-[12px] text-ink-2">
        {text}
      </p>
      {stale && (
        <div aria-hidden className="h-[2px] bg-hair">
          <div className="h-full bg-ink transition-[width]" style={{ width: `${100 * done}%` }} />
        </div>
      )}
    </div>
  )
}

function List({
  list,
  at,
  doc,
  title,
  picture,
  onPick,
  empty,
  shown,
}: {
  list: readonly Finding[]
  at: number
  doc: Schemas['Reveal']
  title(check: string): string
  picture(f: Finding): string
  onPick(k: number, focus?: boolean): void
  empty: boolean
  shown: Shown
}) {
  const current = useRef<HTMLButtonElement>(null)
  useEffect(() => void current.current?.scrollIntoView({ block: 'nearest' }), [at])
  if (list.length === 0)
    return (
      <p className="px-5 py-4 text-ink-2">
        {empty ? (shown === 'accepted' ? 'Nothing has been accepted.' : 'Nothing here.') : ''}
      </p>
    )
  return (
    <ol aria-label="Findings by step" className="scroll relative min-h-0 grow pb-4">
      {list.map((f, k) => {
        const step = doc.steps.findIndex((s) => s.id === f.step)
        const first = k === 0 || list[k - 1]!.step !== f.step
        return (
          <li key={f.key}>
            {first && (
              <p className="sticky top-0 bg-sheet px-5 pt-3 pb-1 text-[12px] text-ink-2">
                {step >= 0 ? (
                  <>
                    <b className="font-semibold text-ink">{step + 1}</b> {doc.steps[step]!.title}
                  </>
                ) : (
                  'The whole film'
                )}
              </p>
            )}
            <button
              ref={k === at ? current : undefined}
              type="button"
              data-finding={f.check}
              tabIndex={k === at ? 0 : -1}
              aria-current={k === at}
              onClick={() => onPick(k, false)}
              onFocus={() => k !== at && onPick(k, false)}
              className={clsx(
                'flex w-full items-start gap-2.5 border-l-[3px] py-2 pr-4 pl-[17px] text-left focus-visible:-outline-offset-2',
                k === at ? 'border-ink bg-sheet-2' : 'border-transparent hover:bg-sheet-2',
              )}
            >
              <Mark level={f.level} />
              <span className="min-w-0 grow">
                <span className="block text-[12.5px] font-semibold">
                  {title(f.check)}
                  <span className="sr-only">, {f.level}</span>{' '}
                  <span className="mono ml-1 text-[11.5px] font-normal text-ink-2">{seconds(f.from, 1)}</span>
                </span>
                <span className="line-clamp-2 text-[12.5px] leading-snug text-ink-2" title={f.says}>
                  {f.says}
                </span>
              </span>
              <img
                src={picture(f)}
                alt=""
                loading="lazy"
                width={96}
                height={54}
                className="mt-0.5 h-[54px] w-24 shrink-0 rounded-[3px] border border-line bg-stage object-cover"
              />
            </button>
          </li>
        )
      })}
    </ol>
  )
}
