import { useQuery } from '@tanstack/react-query'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { Collapsible } from 'radix-ui'
import type { ReactNode } from 'react'
import { answer, api, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Choice, Select, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Logo, Sound } from './Attached'
import { Row, Words, type Part } from './fields'
import { Joined } from './Joined'
import { useOrder, type Settings } from './settings'
import { Aperture, Looks, Fine } from './Look'
import { Size, Rate, Time } from './Extent'

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

export function Film({ s, change }: Part) {
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
  const more = useOrder((s) => s.more)
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
