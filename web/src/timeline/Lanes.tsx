import clsx from 'clsx'
import { ChevronDown, ChevronRight, CircleSlash } from 'lucide-react'
import { useMemo } from 'react'
import type { Bar } from '../api/client'
import { openOnes, useProof, type Finding } from '../proof/proof'
import { useSession } from '../session/session'
import { toggle } from '../session/cues'
import { IconButton } from '../ui/controls'
import { tint } from '../ui/glyphs'
import { BarView } from './BarView'
import type { BeginDrag } from './drag'
import type { Lane } from './lanes'
import { fold } from './view'

export const laneHeight = 28

export interface Window {
  from: number
  to: number
  top: number
  bottom: number
}

// Lanes draws those that are in the window, and of these the bars that are.
export function Lanes({
  lanes,
  tops,
  px,
  seen,
  labelWidth,
  picked,
  stepIndex,
  stop,
  drag,
}: {
  lanes: Lane[]
  tops: number[]
  px: number
  seen: Window
  labelWidth: number
  picked: ReadonlySet<string>
  stepIndex: ReadonlyMap<string, number>
  stop: string | undefined
  drag: BeginDrag
}) {
  const wrong = useWrong()
  return lanes.map((lane, i) => {
    const top = tops[i]!
    const height = lane.height * laneHeight
    if (top > seen.bottom || top + height < seen.top) return null
    return (
      <div
        key={lane.key}
        className="pointer-events-none absolute inset-x-0 flex border-b border-hair"
        style={{ top, height }}
      >
        <Label lane={lane} width={labelWidth} />
        <div className="relative grow">
          {lane.bars.map(
            (b, k) =>
              b.start <= seen.to &&
              b.start + b.duration >= seen.from && (
                <BarView
                  top={lane.rows[k]! * laneHeight + 2}
                  key={(b.retraced ? 'back-' : '') + b.cue}
                  bar={b}
                  px={px}
                  color={tint(stepIndex.get(b.step) ?? 0)}
                  picked={picked.has(b.cue)}
                  stop={b.cue === stop}
                  step={(stepIndex.get(b.step) ?? 0) + 1}
                  wrong={wrong.get(b.cue)}
                  drag={drag}
                />
              ),
          )}
          {lane.bars.map((b, k) =>
            wrong.get(b.cue)?.map(
              (f) =>
                within(b, f) && (
                  <span
                    key={(b.retraced ? 'back-' : '') + f.key}
                    aria-hidden
                    data-wrong={f.check}
                    className={clsx(
                      'absolute z-[1] h-[3px] rounded-full',
                      f.level === 'fault' ? 'bg-signal' : 'bg-advice',
                    )}
                    style={{
                      left: Math.max(f.from, b.start) * px,
                      width: Math.max((Math.min(f.to, b.start + b.duration) - Math.max(f.from, b.start)) * px, 4),
                      top: lane.rows[k]! * laneHeight + 26,
                    }}
                  />
                ),
            ),
          )}
        </div>
      </div>
    )
  })
}

const within = (b: Bar, f: Finding) => f.from < b.start + b.duration && f.to >= b.start

// useWrong lists, by cue, the faults and warnings that are open.
function useWrong(): ReadonlyMap<string, Finding[]> {
  const outcome = useProof(false).data?.report
  return useMemo(() => {
    const map = new Map<string, Finding[]>()
    for (const f of openOnes(outcome))
      if (f.level !== 'hint') for (const c of f.cues) map.set(c, [...(map.get(c) ?? []), f])
    return map
  }, [outcome])
}

function Label({ lane, width }: { lane: Lane; width: number }) {
  const targets = lane.bars[0]?.targets ?? []
  const one = !lane.group && targets.length === 1 ? targets[0]! : null // hovering shows which part it is
  const off = lane.bars.length > 0 && lane.bars.every((b) => b.muted)
  const group = lane.group !== undefined
  const folded = group ? lane.bars.length > 0 : lane.height < lane.full
  return (
    <div
      className={clsx(
        'group/lane pointer-events-auto sticky left-0 z-10 flex h-full shrink-0 items-start border-r border-line pr-[14px] text-[12.5px] leading-[28px]',
        group ? 'bg-sheet-2 font-semibold' : 'bg-sheet',
      )}
      style={{ width }}
    >
      {group || lane.full > 1 ? (
        <button
          type="button"
          title={folded ? 'Unfold' : 'Fold'}
          aria-label={`${folded ? 'Unfold' : 'Fold'} ${lane.name}`}
          aria-expanded={!folded}
          onClick={() => fold(lane.key)}
          className="grid h-[28px] w-[24px] shrink-0 place-items-center text-ink-2 hover:text-ink"
        >
          {folded ? <ChevronRight size={12} /> : <ChevronDown size={12} />}
        </button>
      ) : (
        <span className="w-[24px] shrink-0" />
      )}
      <span
        className={clsx('truncate', off && 'text-ink-3 line-through')}
        title={lane.name}
        onPointerEnter={() => one && useSession.getState().setHover(one)}
        onPointerLeave={() => one && useSession.getState().setHover(null)}
      >
        {lane.name}
      </span>
      {!group && (
        <IconButton
          label={off ? 'Unmute this lane' : 'Mute this lane'}
          onClick={() => toggle([...new Set(lane.bars.map((b) => b.cue))])}
          className={clsx(
            'ml-auto !h-6 !w-6 group-hover/lane:opacity-100 focus-visible:opacity-100',
            off ? 'text-signal-ink' : 'opacity-0',
          )}
        >
          <CircleSlash size={13} />
        </IconButton>
      )}
      {(group || lane.count > 1) && (
        <span className={clsx('mono text-[11.5px] text-ink-2', group && 'ml-auto')}>
          {group ? lane.group : lane.count}
        </span>
      )}
    </div>
  )
}
