// What is put on paper and on pages: line drawings, sheets, manuals, parts lists, client pages.
import type { Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Choice, Select, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Logo } from './Attached'
import { Row, Words, type Part } from './fields'
import { Moments } from './Moments'
import { OwnPictures } from './OwnPictures'
import { References } from './References'
import { SectionOf } from './SectionOf'
import { sheetOf, type Settings } from './settings'

const fillings = [
  { value: 'none', text: 'Lines' },
  { value: 'tinted', text: 'Tinted' },
  { value: 'shaded', text: 'Shaded' },
  { value: 'flat', text: 'Flat' },
] as const

type Filling = (typeof fillings)[number]['value']

/** Format asks in which of some formats something is written. */
export function Format({ s, change, options }: Part & { options: readonly { value: string; text: string }[] }) {
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
      <SectionOf label="Cut open" section={set.section} onChange={(section) => put({ section })} />
      <Tick on={set.hidden ?? false} onChange={(hidden) => put({ hidden })}>
        Hidden lines, dashed
      </Tick>
      <Tick on={!set.noFlow} onChange={(on) => put({ noFlow: !on })}>
        Flow lines
      </Tick>
      <Tick on={!set.noNotes} onChange={(on) => put({ noNotes: !on })}>
        Notes
      </Tick>
      <Tick on={set.references ?? false} onChange={(references) => put({ references })}>
        Item references, numbered as in the parts list
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

// viewsOf are views of moments, all alike, and the section of the first of them.
function viewsOf(
  moments: readonly (number | undefined)[],
  like: Schemas['SheetView'],
  section: Schemas['Section'] | undefined,
): Schemas['SheetView'][] {
  const { filling, hidden } = like
  return [...moments.map((at) => ({ ...like, at })), ...(section ? [{ filling, hidden, section, at: moments[0] }] : [])]
}

/** Sheet is a drawing sheet of moments, or of those that show most of the items. */
export function Sheet({ s, change }: Part) {
  const set = sheetOf(s)
  const put = (by: Partial<Schemas['SheetSettings']>) => change({ sheet: { ...set, ...by } })
  const title = (by: Partial<Schemas['TitleBlock']>) => put({ title: { ...set.title, ...by } })
  const view = set.views?.[0]
  const section = set.views?.find((v) => v.section)?.section
  const { from, filling, perspective, hidden } = view ?? {}
  const like = { from, filling, perspective, hidden }
  const lay = (by: Partial<Schemas['SheetView']>, cut: typeof section) =>
    put({ views: viewsOf(s.at && s.at.length > 0 ? s.at : [undefined], { ...like, ...by }, cut) })
  const look = (by: Partial<Schemas['SheetView']>) => lay(by, section)
  const moments = (by: Partial<Settings>) => {
    const at = by.ends ? useSession.getState().core!.ask('ends') : (by.at ?? [])
    const views = at.length > 0 || view ? viewsOf(at.length > 0 ? at : [undefined], like, section) : undefined
    change({ at, sheet: { ...set, views } })
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
      <SectionOf label="A section beside them" section={section} onChange={(cut) => lay({}, cut)} />
      <Tick on={!set.noReferences} onChange={(on) => put({ noReferences: !on })}>
        Item references
      </Tick>
      <References s={s} change={change} />
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
  const set = sheetOf(s)
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
      <OwnPictures pictures={set.pictures} onChange={(pictures) => put({ pictures })} />
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
