import { useEye } from '../session/eye'
import { useQuery } from '@tanstack/react-query'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { Collapsible } from 'radix-ui'
import type { ReactNode } from 'react'
import { answer, api, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { alike } from '../session/shape'
import { Choice, Select, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Attached, Logo, Sound } from './Attached'
import { Row, Words } from './fields'
import { Joined } from './Joined'
import { Moments } from './Moments'
import { Lines, Manual, Page, Parts, Sheet } from './Paper'
import { kinds, paperKinds, useOrder, type Kind, type Settings, rateName } from './settings'

const sizes = [
  [1280, 720, '720p'],
  [1920, 1080, '1080p'],
  [2560, 1440, '1440p'],
  [3840, 2160, '4K'],
  [1080, 1080, 'square'],
  [1080, 1920, 'upright'],
] as const
const rates = [24, 25, 30, 50, 60, 120, 240] as const
const pictures = [
  { value: 'png', text: 'PNG' },
  { value: 'jpeg', text: 'JPEG' },
  { value: 'tiff', text: 'TIFF' },
]
const purposes = [
  { value: 'draft', text: 'Draft', tip: 'For a look at the timing: made soonest, coarser where much moves.' },
  {
    value: 'web',
    text: 'Web',
    tip: 'To be watched by clients, on pages and in meetings; it begins to play while it loads.',
  },
  { value: 'archive', text: 'Archive', tip: 'To be kept: near lossless, and larger.' },
  {
    value: 'edit',
    text: 'Edit',
    tip: 'To be cut in an editing program: every frame is a key frame, and it is far larger.',
  },
]

// Form is where an output is chosen: what it is, of which time, in which shape.
export function Form() {
  const { settings: s, change, put } = useOrder()
  const kind = (s.kind ?? 'film') as Kind
  const choose = (next: Kind) =>
    put({ kind: next, captions: s.captions ?? true, purpose: s.purpose ?? 'web', width: s.width, height: s.height })
  return (
    <div className="space-y-3.5">
      <div className="space-y-1.5">
        <Choice label="What to make" value={kind} onChange={choose} options={kinds} className="w-full" />
        <Choice
          label="What to make on paper and pages"
          value={kind}
          onChange={choose}
          options={paperKinds}
          className="w-full"
        />
      </div>
      <Row label="Name">
        <Words
          label="Name of the output"
          value={s.name ?? ''}
          placeholder="The reveal’s own"
          onChange={(name) => change({ name })}
        />
      </Row>
      {kind === 'film' && <Film s={s} change={change} />}
      {kind === 'stills' && <Stills s={s} change={change} />}
      {kind === 'frames' && <Frames s={s} change={change} />}
      {kind === 'glb' && (
        <p className="text-ink-2">
          One file that a client opens and turns by hand: parts, fades and the camera move as in the reveal (glTF 2.0).
          Surfaces, notes, cards and flow lines stay out.
        </p>
      )}
      {kind === 'captions' && <Captions s={s} change={change} />}
      {kind === 'lines' && <Lines s={s} change={change} />}
      {kind === 'sheet' && <Sheet s={s} change={change} />}
      {kind === 'manual' && <Manual s={s} change={change} />}
      {kind === 'parts' && <Parts s={s} change={change} />}
      {kind === 'page' && <Page s={s} change={change} />}
      {(kind === 'lines' || kind === 'sheet' || kind === 'manual') && <Fonts s={s} change={change} />}
    </div>
  )
}

interface Part {
  s: Settings
  change(by: Partial<Settings>): void
}

function Film({ s, change }: Part) {
  const formats = useQuery({
    queryKey: ['formats'],
    staleTime: Infinity,
    queryFn: () => answer(api.GET('/api/release/formats')),
  })
  const list: Schemas['Format'][] = formats.data ?? []
  const format = list.find((f) => f.name === (s.format ?? 'mp4-h264'))
  const choose = (name: string) => {
    const f = list.find((x) => x.name === name)
    change({
      format: name,
      background: f?.alpha ? s.background : s.background === 'transparent' ? '' : s.background,
      sound: f?.sound ? s.sound : undefined,
    })
  }
  return (
    <>
      <Row label="Format">
        <Select
          label="Format"
          value={s.format ?? 'mp4-h264'}
          onChange={choose}
          className="w-full"
          options={
            list.length > 0
              ? list.map((f) => ({ value: f.name, text: f.title }))
              : [{ value: 'mp4-h264', text: 'MP4, H.264' }]
          }
        />
      </Row>
      {formats.isError && (
        <p role="alert" className="text-signal-ink">
          {formats.error.message}
        </p>
      )}
      <Size s={s} change={change} />
      <Rate s={s} change={change} />
      {format?.purposes !== false && (
        <Row label="Purpose">
          <Choice
            label="Purpose"
            value={s.purpose ?? 'web'}
            onChange={(purpose) => change({ purpose: purpose as Settings['purpose'] })}
            options={purposes}
            className="w-full"
          />
          <p className="mt-1 text-[12px] text-ink-2">{purposes.find((p) => p.value === (s.purpose ?? 'web'))?.tip}</p>
        </Row>
      )}
      <Time s={s} change={change} />
      <Looks s={s} change={change} clear={format?.alpha ?? false} />
      <More special={special(s)}>
        <Joined s={s} change={change} />
        <Tick on={(s.shutterSamples ?? 0) > 1} onChange={(on) => change({ shutterSamples: on ? 8 : 0 })}>
          Motion blur (takes eight times as long)
        </Tick>
        <Aperture s={s} change={change} />
        <Fine s={s} change={change} />
        <Tick on={s.safeAreas ?? false} onChange={(safeAreas) => change({ safeAreas })}>
          Safe areas drawn in, for a look
        </Tick>
        <Logo s={s} change={change} />
        {format?.sound !== false && <Sound s={s} change={change} />}
        <Poster s={s} change={change} cover={format?.cover ?? true} />
        <Row label="Author" hint="kept in the file">
          <Words
            label="Author"
            value={s.author ?? ''}
            placeholder="Nobody"
            onChange={(author) => change({ author: author || undefined })}
          />
        </Row>
      </More>
    </>
  )
}

// special names what is set of that which most films go without.
function special(s: Settings): string[] {
  return [
    s.card || s.then ? (s.then ? `${s.then.length + 1} reveals joined` : 'a title card before it') : '',
    (s.shutterSamples ?? 0) > 1 ? 'motion blur' : '',
    s.aperture ? 'depth of field' : '',
    s.samples === 16 ? 'finer lines' : '',
    s.safeAreas ? 'safe areas' : '',
    s.logo ? 'a logo' : '',
    s.sound ? 'sound' : '',
    s.poster !== undefined ? 'a poster' : '',
    s.author ? `by ${s.author}` : '',
  ].filter(Boolean)
}

// More holds what most films go without; it says what of it is set while it is folded.
function More({ special, children }: { special: string[]; children: ReactNode }) {
  const { more } = useOrder()
  return (
    <Collapsible.Root
      open={more}
      onOpenChange={(more) => useOrder.setState({ more })}
      className="border-t border-line pt-2.5"
    >
      <Collapsible.Trigger className="flex w-full items-baseline gap-1.5 text-left text-[12.5px] font-semibold hover:text-ink-2">
        {more ? <ChevronDown size={13} className="self-center" /> : <ChevronRight size={13} className="self-center" />}{' '}
        More for this film
        {!more && (
          <span className="truncate font-normal text-ink-2" title={special.join(', ')}>
            {special.length > 0 ? special.join(', ') : 'joined reveals, blur, logo, sound, poster'}
          </span>
        )}
      </Collapsible.Trigger>
      <Collapsible.Content className="mt-2.5 space-y-3.5">{children}</Collapsible.Content>
    </Collapsible.Root>
  )
}

// Aperture is depth of field: what is nearer or farther than what the camera looks at is unsharp.
function Aperture({ s, change }: Part) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_72px] items-center gap-2">
      <Tick
        on={(s.aperture ?? 0) > 0}
        onChange={(on) => change({ aperture: on ? 5.6 : undefined, sixteenBits: on ? undefined : s.sixteenBits })}
      >
        Depth of field (takes far longer), f/
      </Tick>
      <NumberField
        label="Aperture"
        quantity="plain"
        disabled={!s.aperture}
        value={s.aperture ?? 5.6}
        onChange={(aperture) => change({ aperture })}
      />
    </div>
  )
}

// Poster is the moment that stands for a film where it is not playing.
function Poster({ s, change, cover }: Part & { cover: boolean }) {
  const duration = useSession((x) => x.schedule)!.duration
  const tick = (on: boolean) => change({ poster: on ? Math.round(useTransport.getState().time) : undefined })
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_72px] items-center gap-2">
      <Tick on={s.poster !== undefined} onChange={tick}>
        A poster of my own{cover ? ', kept in the file' : ''}
      </Tick>
      <NumberField
        label="Moment of the poster"
        quantity="time"
        disabled={s.poster === undefined}
        value={(s.poster ?? duration / 2) / 1e6}
        onChange={(v) => change({ poster: Math.round(v * 1e6) })}
      />
    </div>
  )
}

function Size({ s, change }: Part) {
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

function Rate({ s, change }: Part) {
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
function Time({ s, change }: Part) {
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

function Looks({ s, change, clear }: Part & { clear: boolean }) {
  const value =
    s.background === 'transparent' || s.background === 'picture' ? s.background : s.background ? 'colour' : 'paper'
  const options = [
    { value: 'paper', text: 'Paper' },
    { value: 'colour', text: 'Colour' },
    { value: 'picture', text: 'Picture' },
    ...(clear ? [{ value: 'transparent', text: 'None' }] : []),
  ]
  const choose = (v: string) => change({ background: v === 'paper' ? '' : v === 'colour' ? '#ffffff' : v })
  return (
    <>
      <Tick on={s.captions ?? false} onChange={(captions) => change({ captions })}>
        Titles and instructions in the picture
      </Tick>
      <Tick on={!s.noNotices} onChange={(on) => change({ noNotices: !on || undefined })}>
        Safety notices and tools in the picture
      </Tick>
      <Row label="Background">
        <div className="flex gap-1.5">
          <Choice label="Background" value={value} onChange={choose} options={options} className="grow" />
          {value === 'colour' && (
            <input
              type="color"
              aria-label="Colour of the background"
              value={s.background}
              onChange={(e) => change({ background: e.target.value })}
              className="h-7 w-10 rounded-md border border-line bg-white p-0.5"
            />
          )}
        </div>
      </Row>
      {value === 'picture' && <Attached kind="picture" id={s.picture} onChange={(a) => change({ picture: a?.id })} />}
      <Fonts s={s} change={change} />
    </>
  )
}

// Fonts are those that are attached, and room for one more where words still hold signs that none has.
function Fonts({ s, change }: Part) {
  const lacking = useOrder((x) => x.lacking)
  const fonts = [s.font, ...(s.fonts ?? [])].filter((f): f is string => !!f)
  const put = (i: number, id: string | undefined) => {
    const [font, ...more] = [...fonts.slice(0, i), id, ...fonts.slice(i + 1)].filter((f): f is string => !!f)
    change({ font, fonts: more.length > 0 ? more : undefined })
  }
  return (
    <>
      {fonts.map((id, i) => (
        <Attached key={id} kind="font" id={id} onChange={(a) => put(i, a?.id)} />
      ))}
      {lacking && <Attached kind="font" onChange={(a) => put(fonts.length, a?.id)} />}
      {(lacking || s.boxes) && (
        <Tick on={s.boxes ?? false} onChange={(boxes) => change({ boxes: boxes || undefined })}>
          Make it with boxes for signs without a font
        </Tick>
      )}
    </>
  )
}

const layers = [
  ['shaded', 'Picture'],
  ['words', 'Words'],
  ['edges', 'Edges'],
  ['faces', 'Faces'],
  ['shadow', 'Shadow'],
  ['background', 'Background'],
  ['hidden', 'All edges'],
  ['depth', 'Depth'],
] as const

function Layers({ s, change }: Part) {
  const sets = useSession((x) => x.arrangement?.sets)
  const picked = useSession((x) => x.selection.nodes)
  const chosen = s.layers ?? [{ kind: 'shaded' }]
  const toggle = (layer: Schemas['Layer'], on: boolean) => {
    const rest = chosen.filter((l) => l.kind !== layer.kind || l.name !== layer.name)
    change({ layers: on ? [...rest, layer] : rest.length > 0 ? rest : [{ kind: 'shaded' }] })
  }
  const mattes: Schemas['Layer'][] = [
    ...(sets ?? []).map((x) => ({ kind: 'matte', name: x.name, nodes: x.nodes })),
    ...(picked.length > 0 ? [{ kind: 'matte', name: 'Picked', nodes: [...picked] }] : []),
  ]
  return (
    <Row label="Layers" hint="one lies on the other">
      <div className="grid grid-cols-2 gap-x-3">
        {layers.map(([kind, text]) => (
          <Tick key={kind} on={chosen.some((l) => l.kind === kind)} onChange={(on) => toggle({ kind }, on)}>
            {text}
          </Tick>
        ))}
        {mattes.map((m) => (
          <Tick
            key={m.name}
            on={chosen.some((l) => l.kind === 'matte' && l.name === m.name)}
            onChange={(on) => toggle(m, on)}
          >
            Matte: {m.name}
          </Tick>
        ))}
      </div>
    </Row>
  )
}

function Pictures({ s, change }: Part) {
  return (
    <>
      <Row label="Format">
        <Choice
          label="Format"
          value={s.format ?? 'png'}
          onChange={(format) => change({ format, sixteenBits: format === 'jpeg' ? undefined : s.sixteenBits })}
          options={pictures}
          className="w-full"
        />
      </Row>
      <Size s={s} change={change} />
      <Layers s={s} change={change} />
      <Looks s={s} change={change} clear={s.format !== 'jpeg'} />
      {chosenShaded(s) && <Aperture s={s} change={change} />}
      <Fine s={s} change={change} />
      <Tick
        on={s.sixteenBits ?? false}
        disabled={s.format === 'jpeg'}
        onChange={(deep) =>
          change({ sixteenBits: deep, aperture: deep ? undefined : s.aperture, samples: deep ? undefined : s.samples })
        }
      >
        16 bits a colour{s.format === 'jpeg' && ' (PNG and TIFF)'}
      </Tick>
    </>
  )
}

// Fine gives a pixel sixteen samples in place of four.
function Fine({ s, change }: Part) {
  return (
    <Tick
      on={s.samples === 16}
      onChange={(on) => change({ samples: on ? 16 : undefined, sixteenBits: on ? undefined : s.sixteenBits })}
    >
      Finer lines (takes four times as long)
    </Tick>
  )
}

// OwnEye lets stills be seen as the author saw the assembly last in Direct.
function OwnEye({ s, change }: Part) {
  const revealId = useSession((x) => x.revealId)!
  const left = useEye((e) => e.left.get(revealId))
  return (
    <Tick
      on={s.eye !== undefined}
      disabled={!left && !s.eye}
      onChange={(on) => change({ eye: on && left ? left : undefined })}
    >
      Seen by my eye as I left it in Direct{!left && !s.eye && ' (look around there first)'}
    </Tick>
  )
}

const chosenShaded = (s: Settings) => (s.layers ?? [{ kind: 'shaded' }]).some((l) => l.kind === 'shaded')

function Stills({ s, change }: Part) {
  return (
    <>
      <Moments s={s} change={change} />
      <OwnEye s={s} change={change} />
      <Pictures s={s} change={change} />
    </>
  )
}

function Frames({ s, change }: Part) {
  return (
    <>
      <Rate s={s} change={change} />
      <Time s={s} change={change} />
      <Pictures s={s} change={change} />
    </>
  )
}

function Captions({ s, change }: Part) {
  return (
    <>
      <Row label="Format">
        <Choice
          label="Format"
          value={s.format ?? 'vtt'}
          onChange={(format) => change({ format })}
          options={[
            { value: 'vtt', text: 'WebVTT' },
            { value: 'srt', text: 'SubRip' },
          ]}
          className="w-full"
        />
      </Row>
      <Time s={s} change={change} />
      <Joined s={s} change={change} />
      <p className="text-ink-2">The titles and instructions of the steps, each as long as its step stands.</p>
    </>
  )
}
