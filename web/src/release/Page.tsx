// The page that a client opens.
import type { Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Logo } from './Attached'
import { Row, Words, type Part } from './fields'
import { Format } from './Paper'

const fields = [
  ['designation', 'Standard and size'],
  ['finish', 'Finish'],
] as const

/** Page is the one file that a client turns by hand. */
export function Page({ s, change }: Part) {
  const reveals = useSession((x) => x.reveals)
  const own = useSession((x) => x.revealId)
  const set = (s.page ?? { list: {} }) as Schemas['ClientpageSettings']
  const put = (by: Partial<Schemas['ClientpageSettings']>) => change({ page: { ...set, ...by } })
  const chosen = set.fields ?? fields.map(([f]) => f)
  const then = s.then ?? []
  const others = reveals.filter((r) => r.id !== own)
  return (
    <>
      <p className="text-ink-2">
        The product to turn, the steps to play, the parts list; what the reveal leaves out is not in it.{' '}
        {s.format === 'folder'
          ? 'A folder for a web server, with the lines that put it into another page.'
          : 'One HTML file that opens from a folder, without a network.'}
      </p>
      <Format
        s={s}
        change={change}
        options={[
          { value: 'html', text: 'One file' },
          { value: 'folder', text: 'For a web server' },
        ]}
      />
      <Row label="Subtitle">
        <Words
          label="Subtitle"
          value={set.subtitle ?? ''}
          placeholder="The assembly’s name"
          onChange={(v) => put({ subtitle: v || undefined })}
        />
      </Row>
      <Row label="Told of parts">
        {fields.map(([f, text]) => (
          <Tick
            key={f}
            on={chosen.includes(f)}
            onChange={(on) =>
              put({ fields: fields.map(([x]) => x).filter((x) => (x === f ? on : chosen.includes(x))) })
            }
          >
            {text}
          </Tick>
        ))}
      </Row>
      {others.length > 0 && (
        <Row label="Further reveals">
          {others.map((r) => (
            <Tick
              key={r.id}
              on={then.some((t) => t.reveal === r.id)}
              onChange={(on) => {
                const rest = then.filter((t) => t.reveal !== r.id)
                const list = on ? [...rest, { reveal: r.id }] : rest
                change({ then: list.length > 0 ? list : undefined })
              }}
            >
              {r.title}
            </Tick>
          ))}
        </Row>
      )}
      <Row label="Surfaces simplified by, mm" hint={set.simplify ? undefined : 'as they are'}>
        <NumberField
          label="How far surfaces may lie from what they are"
          quantity="plain"
          value={set.simplify ?? 0}
          onChange={(mm) => put({ simplify: mm > 0 ? mm : undefined })}
        />
      </Row>
      <div className="grid grid-cols-2 gap-2">
        <Row label="Accent">
          <input
            type="color"
            aria-label="Accent of the page"
            value={set.colour ?? '#b5311b'}
            onChange={(e) => put({ colour: e.target.value })}
            className="h-7 w-full rounded-md border border-line bg-white p-0.5"
          />
        </Row>
        <Row label="To be used until">
          <input
            type="date"
            aria-label="To be used until"
            value={set.until ?? ''}
            onChange={(e) => put({ until: e.target.value || undefined })}
            className="h-7 w-full rounded-md border border-line bg-white px-2 text-[12.5px] hover:border-ink-3"
          />
        </Row>
      </div>
      <Logo s={s} change={change} />
    </>
  )
}
