import { Plus, X } from 'lucide-react'
import { useSession } from '../session/session'
import type { Schemas } from '../api/client'
import { Button, IconButton, Select, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Row, Words } from './fields'
import type { Settings } from './settings'

type Card = Schemas['TitleCard']
type Then = Schemas['Then']

const own = 'own'

// Joined is what is set before a film and what follows it: title cards, and further reveals.
export function Joined({ s, change }: { s: Settings; change(by: Partial<Settings>): void }) {
  const title = useSession((x) => x.doc?.title ?? '')
  const list = s.then ?? []
  const put = (then: Then[]) =>
    change({
      then: then.length > 0 ? then : undefined,
      crossFade: then.length > 0 || s.card ? (s.crossFade ?? 5e5) : undefined,
    })
  const card = (c: Card | undefined) =>
    change({ card: c, crossFade: c || list.length > 0 ? (s.crossFade ?? 5e5) : undefined })
  return (
    <Row label="Joined with" hint={list.length > 0 ? `${list.length + 1} reveals` : undefined}>
      <Tick on={s.card !== undefined} onChange={(on) => card(on ? newCard(title) : undefined)}>
        A title card before it
      </Tick>
      {s.card && <CardFields name="First card" card={s.card} change={card} />}
      {list.map((t, i) => (
        <Follower
          key={i}
          number={i + 2}
          t={t}
          change={(to) => put(list.map((x, k) => (k === i ? to : x)))}
          drop={() => put(list.filter((_, k) => k !== i))}
        />
      ))}
      <div className="mt-1.5 flex items-center justify-between gap-2">
        <Button onClick={() => put([...list, {}])}>
          <Plus size={13} /> A reveal after it
        </Button>
        {(list.length > 0 || s.card) && (
          <label className="flex items-center gap-2 text-[12px] whitespace-nowrap text-ink-2">
            Cross-fade
            <NumberField
              label="Cross-fade"
              quantity="time"
              className="max-w-16"
              value={(s.crossFade ?? 0) / 1e6}
              onChange={(v) => change({ crossFade: Math.round(v * 1e6) })}
            />
          </label>
        )}
      </div>
    </Row>
  )
}

const newCard = (title: string): Card => ({ title: title || 'Title', duration: 3e6 })

function Follower({ number, t, change, drop }: { number: number; t: Then; change(t: Then): void; drop(): void }) {
  const reveals = useSession((x) => x.reveals)
  const id = useSession((x) => x.revealId)
  const options = [
    { value: own, text: 'This reveal again' },
    ...reveals.filter((r) => r.id !== id).map((r) => ({ value: r.id, text: r.title })),
  ]
  const gone = t.reveal !== undefined && !reveals.some((r) => r.id === t.reveal)
  const title = reveals.find((r) => r.id === (t.reveal ?? id))?.title ?? ''
  return (
    <div role="group" aria-label={`Reveal ${number} of the film`} className="mt-1.5 border-l-2 border-line pl-2">
      <div className="flex items-center gap-1.5">
        <span className="mono text-[11.5px] text-ink-3">{number}</span>
        <Select
          label={`Reveal ${number}`}
          value={t.reveal ?? own}
          className="min-w-0 grow"
          onChange={(v) => change({ ...t, reveal: v === own ? undefined : v })}
          options={gone ? [...options, { value: t.reveal!, text: 'Not there any more' }] : options}
        />
        <IconButton label={`Take reveal ${number} out`} onClick={drop}>
          <X size={13} />
        </IconButton>
      </div>
      <div className="flex gap-4">
        <Tick on={t.reverse ?? false} onChange={(backward) => change({ ...t, reverse: backward })}>
          Runs backwards
        </Tick>
        <Tick on={t.card !== undefined} onChange={(on) => change({ ...t, card: on ? newCard(title) : undefined })}>
          Its own card
        </Tick>
      </div>
      {t.card && <CardFields name={`Card ${number}`} card={t.card} change={(c) => change({ ...t, card: c })} />}
    </div>
  )
}

function CardFields({ name, card, change }: { name: string; card: Card; change(c: Card): void }) {
  return (
    <div className="my-1 grid grid-cols-[minmax(0,1fr)_64px] gap-1.5">
      <Words
        label={`${name}: title`}
        value={card.title}
        onChange={(title) => change({ ...card, title })}
        placeholder="Title"
      />
      <NumberField
        label={`${name}: how long`}
        quantity="time"
        value={card.duration / 1e6}
        onChange={(v) => change({ ...card, duration: Math.round(v * 1e6) })}
      />
      <div className="col-span-2">
        <Words
          label={`${name}: text`}
          value={card.text ?? ''}
          onChange={(text) => change({ ...card, text: text || undefined })}
          placeholder="A line under it, if any"
        />
      </div>
    </div>
  )
}
