// What is put on paper and on pages: line drawings, sheets, manuals, parts lists, client pages.
import type { Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Choice, Select, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Logo } from './Attached'
import { Row, Words } from './fields'
import { Moments } from './Moments'
import type { Settings } from './settings'

interface Part {
  s: Settings
  change(by: Partial<Settings>): void
}

const fillings = [
  { value: 'none', text: 'Lines' },
  { value: 'tinted', text: 'Tinted' },
  { value: 'shaded', text: 'Shaded' },
] as const

type Filling = (typeof fillings)[number]['value']

function Format({ s, change, options }: Part & { options: readonly { value: string; text: string }[] }) {
  return (
    <Row label="Format">
      <Choice
        label="Format"
        value={s.format ?? options[0]!.value}
        onChange={(format) => change({ format })}
        options={options}
        className="w-full"
      />
    </Row>
  )
}

/** Lines are chosen moments as vectors. */
export function Lines({ s, change }: Part) {
  const set = s.lines ?? {}
  const put = (by: Partial<Schemas['StillSettings']>) => change({ lines: { ...set, ...by } })
  return (
    <>
      <Format
        s={s}
        change={change}
        options={[
          { value: 'svg', text: 'SVG' },
          { value: 'pdf', text: 'PDF' },
        ]}
      />
      <Moments s={s} change={change} />
      <Row label="Drawn">
        <Choice<Filling>
          label="What is under the lines"
          value={(set.filling as Filling) || 'none'}
          onChange={(filling) => put({ filling })}
          options={fillings.filter((f) => f.value !== 'tinted')}
          className="w-full"
        />
      </Row>
      <div className="grid grid-cols-2 gap-2">
        <Row label="Width, mm">
          <NumberField
            label="Width of the drawing"
            quantity="plain"
            value={set.width ?? 170}
            onChange={(width) => put({ width })}
          />
        </Row>
        <Row label="Wide lines, mm">
          <NumberField
            label="Width of wide lines"
            quantity="plain"
            value={set.lineWidth ?? 0.5}
            onChange={(lineWidth) => put({ lineWidth })}
          />
        </Row>
      </div>
      <Tick on={set.hidden ?? false} onChange={(hidden) => put({ hidden })}>
        Hidden lines, dashed
      </Tick>
      <Tick on={!set.noFlow} onChange={(on) => put({ noFlow: !on })}>
        Flow lines
      </Tick>
      <Tick on={!set.noNotes} onChange={(on) => put({ noNotes: !on })}>
        Notes
      </Tick>
    </>
  )
}

const sizes = ['A4', 'A3', 'A2', 'A1', 'A0', 'ANSI A', 'ANSI B', 'ANSI C', 'ANSI D', 'ANSI E']
const fromWhere = [
  { value: 'reveal', text: 'Where the reveal looks from' },
  { value: 'isometric', text: 'Isometric' },
  { value: 'dimetric', text: 'Dimetric' },
  { value: 'front', text: 'Front' },
  { value: 'left', text: 'Left' },
  { value: 'right', text: 'Right' },
  { value: 'top', text: 'Top' },
]

/** Sheet is a drawing sheet of moments, or of those that show most of the items. */
export function Sheet({ s, change }: Part) {
  const set = (s.sheet ?? { title: {}, list: {} }) as Schemas['SheetSettings']
  const put = (by: Partial<Schemas['SheetSettings']>) => change({ sheet: { ...set, ...by } })
  const title = (by: Partial<Schemas['TitleBlock']>) => put({ title: { ...set.title, ...by } })
  const view = set.views?.[0]
  const look = (by: Partial<Schemas['SheetView']>) => {
    const like = {
      from: view?.from,
      filling: view?.filling,
      perspective: view?.perspective,
      hidden: view?.hidden,
      ...by,
    }
    const moments: (number | undefined)[] = s.at && s.at.length > 0 ? s.at : [undefined]
    put({ views: moments.map((at) => ({ ...like, at })) })
  }
  // The views are those of the moments, all alike.
  const moments = (by: Partial<Settings>) => {
    const at = by.at ?? []
    const { from, filling, perspective, hidden } = view ?? {}
    const like = { from, filling, perspective, hidden }
    change({
      at,
      sheet: { ...set, views: at.length > 0 ? at.map((t) => ({ ...like, at: t })) : view ? [like] : undefined },
    })
  }
  return (
    <>
      <Format
        s={s}
        change={change}
        options={[
          { value: 'pdf', text: 'PDF' },
          { value: 'svg', text: 'SVG' },
        ]}
      />
      <div className="grid grid-cols-2 gap-2">
        <Row label="Size">
          <Select
            label="Size of the sheet"
            value={set.size || 'A3'}
            className="w-full"
            onChange={(size) => put({ size })}
            options={sizes.map((v) => ({ value: v, text: v }))}
          />
        </Row>
        <Row label="Projection">
          <Choice
            label="Method of projection"
            value={set.firstAngle ? 'first' : 'third'}
            onChange={(v) => put({ firstAngle: v === 'first' })}
            options={[
              { value: 'first', text: 'First' },
              { value: 'third', text: 'Third' },
            ]}
            className="w-full"
          />
        </Row>
      </div>
      <Moments s={s} change={moments} none="those that show most items" />
      <Row label="Views">
        <Select
          label="Where views look from"
          value={view?.from || 'reveal'}
          className="w-full"
          onChange={(v) => look({ from: v === 'reveal' ? undefined : v })}
          options={fromWhere}
        />
        <Choice<Filling>
          label="What is under the lines"
          value={(view?.filling as Filling) || 'none'}
          onChange={(filling) => look({ filling })}
          options={fillings.filter((f) => f.value !== 'tinted')}
          className="mt-1.5 w-full"
        />
      </Row>
      <Tick on={!set.noReferences} onChange={(on) => put({ noReferences: !on })}>
        Item references
      </Tick>
      <Tick on={!set.noList} onChange={(on) => put({ noList: !on })}>
        Parts list
      </Tick>
      <Tick on={set.topDown ?? false} disabled={set.noList} onChange={(topDown) => put({ topDown })}>
        Read from the top
      </Tick>
      <Row label="Title block" hint="ISO 7200">
        <div className="space-y-1.5">
          <Words
            label="Title of the drawing"
            value={set.title.title ?? ''}
            placeholder="Title: the assembly’s name"
            onChange={(v) => title({ title: v || undefined })}
          />
          <Words
            label="Identification number"
            value={set.title.number ?? ''}
            placeholder="Identification number"
            onChange={(v) => title({ number: v || undefined })}
          />
          <Words
            label="Legal owner"
            value={set.title.owner ?? ''}
            placeholder="Legal owner"
            onChange={(v) => title({ owner: v || undefined })}
          />
          <div className="grid grid-cols-2 gap-1.5">
            <Words
              label="Created by"
              value={set.title.creator ?? ''}
              placeholder="Created by"
              onChange={(v) => title({ creator: v || undefined })}
            />
            <Words
              label="Revision"
              value={set.title.revision ?? ''}
              placeholder="Revision"
              onChange={(v) => title({ revision: v || undefined })}
            />
          </div>
        </div>
      </Row>
      <Logo s={s} change={change} />
    </>
  )
}

/** Parts is the parts list by itself. */
export function Parts({ s, change }: Part) {
  const set = (s.sheet ?? { title: {}, list: {} }) as Schemas['SheetSettings']
  return (
    <>
      <Format
        s={s}
        change={change}
        options={[
          { value: 'csv', text: 'CSV' },
          { value: 'json', text: 'JSON' },
        ]}
      />
      <Row label="Order">
        <Choice
          label="Order of the items"
          value={set.list.order || 'tree'}
          onChange={(order) => change({ sheet: { ...set, list: { ...set.list, order } } })}
          options={[
            { value: 'tree', text: 'As in the assembly' },
            { value: 'name', text: 'By name' },
          ]}
          className="w-full"
        />
      </Row>
      <p className="text-ink-2">
        Each different part once, with how often it is there, its standard where it is a fastener that was recognised,
        and its finish.
      </p>
    </>
  )
}

const templates = [
  { value: 'pages', text: 'Steps below one another' },
  { value: 'single', text: 'One step a page' },
  { value: 'columns', text: 'Two columns' },
  { value: 'cards', text: 'Cards that lie' },
  { value: 'strip', text: 'A strip to fold' },
]

/** Manual is the step-by-step document. */
export function Manual({ s, change }: Part) {
  const set = (s.manual ?? { list: {} }) as Schemas['ManualSettings']
  const put = (by: Partial<Schemas['ManualSettings']>) => change({ manual: { ...set, ...by } })
  const html = s.format === 'html'
  return (
    <>
      <Format
        s={s}
        change={change}
        options={[
          { value: 'pdf', text: 'PDF' },
          { value: 'html', text: 'HTML, a folder' },
        ]}
      />
      {!html && (
        <Row label="Pages">
          <Select
            label="How pages are laid out"
            value={set.template || 'pages'}
            className="w-full"
            onChange={(template) => put({ template })}
            options={templates}
          />
        </Row>
      )}
      <Row label="Pictures">
        <Choice<Filling>
          label="What is under the lines"
          value={(set.filling as Filling) || 'tinted'}
          onChange={(filling) => put({ filling })}
          options={fillings}
          className="w-full"
        />
      </Row>
      <Tick on={!set.noReferences} onChange={(on) => put({ noReferences: !on })}>
        Item references in pictures
      </Tick>
      <Tick on={!set.noParts} onChange={(on) => put({ noParts: !on })}>
        Parts of each step, and an index of parts
      </Tick>
      <Tick on={!set.noCover} onChange={(on) => put({ noCover: !on })}>
        Cover
      </Tick>
      {html && (
        <Tick on={set.films ?? false} onChange={(films) => put({ films })}>
          A film of each step
        </Tick>
      )}
      <Row label="On the cover">
        <div className="grid grid-cols-2 gap-1.5">
          <Words label="Owner" value={set.owner ?? ''} placeholder="Owner" onChange={(v) => put({ owner: v })} />
          <Words label="Number" value={set.number ?? ''} placeholder="Number" onChange={(v) => put({ number: v })} />
        </div>
      </Row>
      <Row label="Before the steps">
        <Text label="Introduction" value={set.intro ?? ''} onChange={(intro) => put({ intro })} />
      </Row>
      <Row label="Behind the steps">
        <Text label="Closing words" value={set.closing ?? ''} onChange={(closing) => put({ closing })} />
      </Row>
    </>
  )
}

function Text({ label, value, onChange }: { label: string; value: string; onChange(v: string): void }) {
  return (
    <textarea
      aria-label={label}
      value={value}
      rows={2}
      maxLength={20000}
      placeholder="Nothing"
      onChange={(e) => onChange(e.target.value)}
      className="w-full resize-y rounded-md border border-line bg-white px-2 py-1 text-[12.5px] placeholder:text-ink-3 hover:border-ink-3"
    />
  )
}

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
        One HTML file that opens from a folder, without a network: the product to turn, the steps to play, the parts
        list. What the reveal leaves out is not in it.
      </p>
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
