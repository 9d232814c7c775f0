// The words of the film where the film will have them: captions and cards. Sizes and
// places come from the core.
import clsx from 'clsx'
import { useMemo } from 'react'
import type { Schemas } from '../api/client'
import { useShallow } from 'zustand/react/shallow'
import type { Lettering } from '../core/core'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Alert, css, useSigns } from '../ui/signs'

// unit is what sizes are shares of: the frame's shorter side.
export const unit = (share: number) => `calc(min(100cqh, 100cqw) * ${share})`

/** paper is the paper of the picture that so much of what lies behind it cannot be seen through. */
export const paper = (alpha: number) => `color-mix(in srgb, var(--sheet) ${100 * alpha}%, transparent)`

export function useLettering(): Lettering | undefined {
  const core = useSession((s) => s.core)
  return useMemo(() => core?.ask('lettering'), [core])
}

export function Words() {
  const lettering = useLettering()
  if (!lettering) return null
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
  // While the film plays, the words of one step make room for those of the next; where the playhead stands, its step
  // says what it says.
  const said = useTransport(
    useShallow((t) =>
      !doc
        ? { step: -1, opacity: 0 }
        : t.playing
          ? core.ask('caption', { time: t.time })
          : { step: core.ask('place', { time: t.time }).step, opacity: 1 },
    ),
  )
  const style = useMemo(() => (doc ? core.ask('captions') : null), [core, doc])
  const step = doc?.steps[said.step]
  if (!step || !style) return null
  const middle = style.place === 'lower-middle'
  const safe = `${l.safe * 100}%`
  const ground = style.backing
    ? {
        background: paper(l.backingAlpha),
        padding: `${unit(0.6 * l.backing * style.size)} ${unit(l.backing * style.size)}`,
        marginInline: unit(-l.backing * style.size),
      }
    : {}
  const title = style.show !== 'none' && step.title
  const text = style.show === 'all' && step.instruction
  const size = (share: number, lead: number) => ({
    fontSize: unit(share * style.size),
    lineHeight: unit(lead * style.size),
  })
  return (
    <div
      aria-label="Caption"
      className={clsx('absolute flex flex-col', middle ? 'items-center text-center' : 'items-start')}
      style={{
        left: safe,
        right: safe,
        opacity: said.opacity,
        gap: unit(l.backing * style.size),
        ...(style.place === 'upper-left' ? { top: safe } : { bottom: safe }),
      }}
    >
      {step.notice && (
        <Warning
          notice={step.notice}
          style={{
            ...size(l.text, l.textLead),
            ...(style.backing && !middle && { marginLeft: unit(-l.backing * style.size) }),
          }}
          width={`${(l.column / (1 - 2 * l.safe)) * 100}%`}
        />
      )}
      {(title || text || step.tools?.length) && (
        <div style={{ maxWidth: `${(l.column / (1 - 2 * l.safe)) * 100}%`, ...ground }}>
          {title && (
            <div className="font-semibold" style={size(l.title, l.titleLead)}>
              {title}
            </div>
          )}
          {text && (
            <div
              className="serif overflow-hidden text-ink/80"
              style={{
                ...size(l.text, l.textLead),
                display: '-webkit-box',
                WebkitBoxOrient: 'vertical',
                WebkitLineClamp: l.lines,
              }}
            >
              {core.ask('plain', { text })}
            </div>
          )}
          {step.tools?.length ? (
            <div className="serif text-ink/80" style={size(l.tools, l.toolsLead)}>
              Tools: {step.tools.join(', ')}
            </div>
          ) : null}
        </div>
      )}
    </div>
  )
}

// Warning is a notice: the signal word on its colour, with the safety alert symbol, and the text on paper.
function Warning({
  notice,
  style,
  width,
}: {
  notice: NonNullable<Schemas['Step']['notice']>
  style: React.CSSProperties
  width: string
}) {
  const sign = useSigns()[notice.signal]
  if (!sign) return null
  return (
    <div
      aria-label="Safety notice"
      className="flex bg-sheet/95 text-left text-ink"
      style={{ ...style, maxWidth: width }}
    >
      <span
        className="flex shrink-0 items-start gap-[0.25em] px-[0.45em] py-[0.1em] font-semibold"
        style={{ background: css(sign.panel), color: css(sign.letters) }}
      >
        {sign.alert && <Alert />}
        {notice.signal}
      </span>
      <span className="serif px-[0.45em] py-[0.1em]">{notice.text}</span>
    </div>
  )
}

function Cards({ l }: { l: Lettering }) {
  const core = useSession((s) => s.core)!
  const any = useSession((s) => s.schedule?.bars.some((b) => b.kind === 'card') ?? false)
  const time = useTransport((s) => (any ? s.time : 0))
  if (!any) return null
  return (
    core.ask('cards', { time })?.map((c, i) => (
      <div
        key={i}
        role="group"
        aria-label="Title card"
        className={clsx('absolute inset-0 text-center', !c.clear && 'bg-[#fdfcf9]')}
        style={{ opacity: c.opacity }}
      >
        <div
          className="absolute inset-x-0 font-semibold"
          style={{
            bottom: `calc(${(1 - l.cardAt) * 100}% - ${unit(l.cardTitle * 0.1)})`,
            fontSize: unit(l.cardTitle),
            lineHeight: 1.15,
            paddingInline: `${((1 - l.cardColumn) / 2) * 100}%`,
          }}
        >
          {c.title}
        </div>
        <div
          className="serif absolute inset-x-0 whitespace-pre-line"
          style={{
            top: `calc(${l.cardAt * 100}% + ${unit(l.cardText * 0.55)})`,
            fontSize: unit(l.cardText),
            lineHeight: 1.4,
            paddingInline: `${((1 - l.cardColumn) / 2) * 100}%`,
          }}
        >
          {c.text}
        </div>
      </div>
    )) ?? null
  )
}
