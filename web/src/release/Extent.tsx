// Which time of the reveal an output is of, how large and at what rate.
import { useSession } from '../session/session'
import { alike } from '../session/shape'
import { Choice, Select, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Row, type Part } from './fields'
import { rateName } from './settings'

const sizes = [
  [1280, 720, '720p'],
  [1920, 1080, '1080p'],
  [2560, 1440, '1440p'],
  [3840, 2160, '4K'],
  [1080, 1080, 'square'],
  [1080, 1920, 'upright'],
] as const

const rates = [24, 25, 30, 50, 60, 120, 240] as const

export function Size({ s, change }: Part) {
  const doc = useSession((x) => x.doc)!
  const own = `${doc.frame.width}x${doc.frame.height}`
  const value = s.width && s.height ? `${s.width}x${s.height}` : own
  const options = sizes.map(([a, b, name]) => ({ value: `${a}x${b}`, text: `${a} × ${b} · ${name}` }))
  for (const other of [own, value])
    if (!options.some((o) => o.value === other)) options.unshift({ value: other, text: other.replace('x', ' × ') })
  const [w, h] = value.split('x').map(Number) as [number, number]
  return (
    <Row label="Size">
      <div className="grid grid-cols-[minmax(0,1fr)_58px_58px] gap-1.5">
        <Select
          label="Size"
          value={value}
          onChange={(v) => {
            const [a, b] = v.split('x').map(Number)
            change({ width: a, height: b })
          }}
          options={options}
          className="min-w-0 whitespace-nowrap"
        />
        <NumberField
          label="Width"
          quantity="plain"
          value={w}
          onChange={(v) => change({ width: Math.round(v), height: h })}
        />
        <NumberField
          label="Height"
          quantity="plain"
          value={h}
          onChange={(v) => change({ width: w, height: Math.round(v) })}
        />
      </div>
      {!alike(w / h, doc.frame.width / doc.frame.height) && (
        <Tick on={!s.fill} onChange={(on) => change({ fill: !on || undefined })}>
          Step back so that all that was directed is in it
        </Tick>
      )}
    </Row>
  )
}

// rateOptions are the rates by the names that they have in the trade; those of 1000/1001 end in a stroke.
function rateOptions(...own: number[]) {
  const whole = [...new Set([...rates, ...own])].map((r) => ({ value: String(r), text: String(r), rate: r }))
  const slowed = [24, 30, 48, 60, 120].map((r) => ({
    value: `${r}/`,
    text: rateName(r, true),
    rate: (r * 1000) / 1001,
  }))
  return [...whole, ...slowed].sort((a, b) => a.rate - b.rate)
}

export function Rate({ s, change }: Part) {
  const own = useSession((x) => x.doc)!.frame.rate
  return (
    <Row label="Frames a second">
      <Select
        label="Frames a second"
        value={`${s.rate ?? own}${s.ntsc ? '/' : ''}`}
        onChange={(v) => change({ rate: parseInt(v), ntsc: v.endsWith('/') || undefined })}
        className="w-28"
        options={rateOptions(own, s.rate ?? own)}
      />
    </Row>
  )
}

// Time is the part of the reveal that is shown, and how fast.
export function Time({ s, change }: Part) {
  const doc = useSession((x) => x.doc)!
  const schedule = useSession((x) => x.schedule)!
  const what = s.steps ? 'steps' : s.from || s.to ? 'span' : 'all'
  const choose = (v: string) =>
    change(
      v === 'all'
        ? { steps: undefined, from: 0, to: 0 }
        : v === 'steps'
          ? { from: 0, to: 0, steps: doc.steps.map((x) => x.id) }
          : { steps: undefined, from: 0, to: schedule.duration },
    )
  return (
    <Row label="Time">
      <Choice
        label="Time"
        value={what}
        onChange={choose}
        options={[
          { value: 'all', text: 'All' },
          { value: 'span', text: 'From … to' },
          { value: 'steps', text: 'Steps' },
        ]}
        className="w-full"
      />
      {what === 'span' && (
        <div className="mt-1.5 grid grid-cols-[88px_auto_88px] items-center gap-2">
          <NumberField
            label="From"
            quantity="time"
            value={(s.from ?? 0) / 1e6}
            onChange={(v) => change({ from: Math.round(v * 1e6) })}
          />
          <span className="text-ink-3">to</span>
          <NumberField
            label="To"
            quantity="time"
            value={(s.to || schedule.duration) / 1e6}
            onChange={(v) => change({ to: Math.round(v * 1e6) })}
          />
        </div>
      )}
      {what === 'steps' && (
        <div className="scroll mt-1.5 max-h-32 rounded-md border border-hair bg-white px-2 py-1">
          {doc.steps.map((x, i) => (
            <Tick
              key={x.id}
              on={s.steps!.includes(x.id)}
              onChange={(on) =>
                change({ steps: doc.steps.map((y) => y.id).filter((id) => (id === x.id ? on : s.steps!.includes(id))) })
              }
            >
              <span className="mono text-ink-3">{i + 1}</span> {x.title || 'Without a title'}
            </Tick>
          ))}
        </div>
      )}
      <div className="mt-1.5 grid grid-cols-[auto_52px_1fr] items-center gap-2 text-[12.5px]">
        <span>Speed</span>
        <NumberField label="Speed" quantity="plain" value={s.speed ?? 1} onChange={(speed) => change({ speed })} />
        <Tick on={s.reverse ?? false} onChange={(backward) => change({ reverse: backward })}>
          Backwards
        </Tick>
      </div>
    </Row>
  )
}
