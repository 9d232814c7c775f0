// The words of the film where the film will have them: captions and cards. Sizes and
// places come from the core.
import clsx from 'clsx'
import { useMemo } from 'react'
import type { Schemas } from '../api/client'
import type { Card, Lettering } from '../core/core'
import { useSession } from '../session/session'
import { useRunning, useTransport } from '../session/transport'

// unit is what sizes are shares of: the frame's height, or three quarters of its
// width where that is less.
const unit = (share: number) => `calc(min(100cqh, 75cqw) * ${share})`

export function Words() {
  const core = useSession((s) => s.core)
  const lettering = useMemo(() => core?.ask<Lettering>({ ask: 'lettering' }), [core])
  if (!core || !lettering) return null
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden" style={{ containerType: 'size' }}>
      <Caption l={lettering} />
      <Cards l={lettering} />
    </div>
  )
}

function Caption({ l }: { l: Lettering }) {
  const core = useSession((s) => s.core)!
  const doc = useSession((s) => s.doc)
  const running = useRunning()
  const style = useMemo(() => (doc ? core.ask<Schemas['Captions']>({ ask: 'captions' }) : null), [core, doc])
  const step = doc?.steps[running]
  if (!step || !style || style.show === 'none') return null
  const middle = style.place === 'lower-middle'
  const safe = `${l.safe * 100}%`
  const ground = style.ground ? { background: 'color-mix(in srgb, var(--sheet) 88%, transparent)', padding: `${unit(0.6 * l.ground * style.size)} ${unit(l.ground * style.size)}` } : {}
  return (
    <div aria-label="Caption" className={clsx('absolute flex', middle && 'justify-center text-center')}
      style={{ left: safe, right: safe, ...(style.place === 'upper-left' ? { top: safe } : { bottom: safe }) }}>
      <div style={{ maxWidth: `${(l.column / (1 - 2 * l.safe)) * 100}%`, ...ground }}>
        <div className="font-semibold" style={{ fontSize: unit(l.title * style.size), lineHeight: unit(l.titleLead * style.size) }}>{step.title}</div>
        {style.show === 'all' && step.instruction && (
          <div className="serif overflow-hidden text-ink/80" style={{ fontSize: unit(l.text * style.size), lineHeight: unit(l.textLead * style.size), display: '-webkit-box', WebkitBoxOrient: 'vertical', WebkitLineClamp: l.lines }}>{step.instruction}</div>
        )}
      </div>
    </div>
  )
}

function Cards({ l }: { l: Lettering }) {
  const core = useSession((s) => s.core)!
  const any = useSession((s) => s.schedule?.bars.some((b) => b.kind === 'card') ?? false)
  const time = useTransport((s) => (any ? s.time : 0))
  if (!any) return null
  return core.ask<Card[] | null>({ ask: 'cards', time })?.map((c, i) => (
    <div key={i} role="group" aria-label="Title card" className={clsx('absolute inset-0 text-center', !c.clear && 'bg-[#fdfcf9]')} style={{ opacity: c.opacity }}>
      <div className="absolute inset-x-0 font-semibold" style={{ bottom: `calc(${(1 - l.cardAt) * 100}% - ${unit(l.cardTitle * 0.1)})`, fontSize: unit(l.cardTitle), lineHeight: 1.15, paddingInline: `${((1 - l.cardColumn) / 2) * 100}%` }}>{c.title}</div>
      <div className="serif absolute inset-x-0 whitespace-pre-line" style={{ top: `calc(${l.cardAt * 100}% + ${unit(l.cardText * 0.55)})`, fontSize: unit(l.cardText), lineHeight: 1.4, paddingInline: `${((1 - l.cardColumn) / 2) * 100}%` }}>{c.text}</div>
    </div>
  )) ?? null
}
