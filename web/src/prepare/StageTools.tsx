import { useShallow } from 'zustand/react/shallow'
import { FlipHorizontal2, Palette, Ruler, Slice } from 'lucide-react'
import { useSession } from '../session/session'
import { nodeById } from '../session/session'
import { useView } from '../stage/view'
import { Button, Choice, IconButton } from '../ui/controls'
import { exactly } from '../core/written'

// StageTools are the ways to look closer: cut, measure, tell apart, put away.
export function StageTools() {
  const { section, measuring, setSection, setMeasuring } = useView(
    useShallow(({ section, measuring, setSection, setMeasuring }) => ({
      section,
      measuring,
      setSection,
      setMeasuring,
    })),
  )
  const core = useSession((s) => s.core)!
  const hidden = useSession((s) => s.hidden.length)
  const { hide, arrange } = useSession.getState()
  const middle = () => {
    const [min, max] = core.ask('bounds')
    setSection({ axis: 2, at: (min[2] + max[2]) / 2, flip: false })
  }
  return (
    <div className="absolute bottom-3 left-3 flex max-w-[calc(100%-24px)] flex-col items-start gap-2">
      {section && <SectionCard />}
      {measuring && <MeasureCard />}
      <div className="flex flex-wrap gap-1.5">
        <Button
          aria-pressed={section !== null}
          className="border-ink aria-pressed:bg-ink aria-pressed:text-sheet"
          onClick={() => (section ? setSection(null) : middle())}
        >
          <Slice size={14} /> Section
        </Button>
        <Button
          aria-pressed={measuring}
          className="border-ink aria-pressed:bg-ink aria-pressed:text-sheet"
          onClick={() => setMeasuring(!measuring)}
        >
          <Ruler size={14} /> Measure
        </Button>
        <Button className="border-ink" onClick={() => void arrange({ do: 'tellApart' })}>
          <Palette size={14} /> Colour by part
        </Button>
        {hidden > 0 && (
          <Button className="border-ink" onClick={() => hide([])}>
            Show all
          </Button>
        )}
      </div>
    </div>
  )
}

const axes = [
  { value: '0', text: 'X' },
  { value: '1', text: 'Y' },
  { value: '2', text: 'Z' },
] as const

function SectionCard() {
  const s = useView((v) => v.section)
  const { setSection } = useView.getState()
  const core = useSession((x) => x.core)!
  if (!s) return null
  const [min, max] = core.ask('bounds')
  const low = min[s.axis]
  const high = max[s.axis]
  return (
    <div
      role="group"
      aria-label="Section"
      className="flex items-center gap-2 border border-ink bg-sheet/95 px-2.5 py-2"
    >
      <Choice
        label="Axis of the section"
        value={String(s.axis) as '0' | '1' | '2'}
        options={axes}
        onChange={(v) => {
          const axis = Number(v) as 0 | 1 | 2
          setSection({ ...s, axis, at: (min[axis] + max[axis]) / 2 })
        }}
      />
      <input
        type="range"
        aria-label="Place of the section"
        min={low}
        max={high}
        step={(high - low) / 400}
        value={s.at}
        onChange={(e) => setSection({ ...s, at: Number(e.target.value) })}
        className="w-44 accent-[var(--ink)]"
      />
      <span className="mono w-[68px] text-right text-[11.5px]">{exactly(s.at, 'length', 1)}</span>
      <IconButton label="Keep the other side" onClick={() => setSection({ ...s, flip: !s.flip })}>
        <FlipHorizontal2 size={14} />
      </IconButton>
    </div>
  )
}

function MeasureCard() {
  const { measured, relation } = useView(useShallow(({ measured, relation }) => ({ measured, relation })))
  const assembly = useSession((s) => s.assembly)
  const names = nodeById(assembly)
  const words = (i: number) => {
    const m = measured[i]
    if (!m) return null
    const f = m.feature!
    const what =
      f.kind === 'plane'
        ? 'plane'
        : f.kind === 'line'
          ? `edge ${exactly(f.length!, 'length')}`
          : f.hole
            ? `hole Ø ${exactly(2 * f.radius!, 'length')}`
            : `cylinder Ø ${exactly(2 * f.radius!, 'length')}`
    return (
      <div className="flex justify-between gap-3">
        <span className="truncate">{names.get(m.node)?.name}</span>
        <span className="mono shrink-0 text-[11.5px]">{what}</span>
      </div>
    )
  }
  return (
    <div role="status" aria-label="Measure" className="w-[300px] border border-ink bg-sheet/95 px-3 py-2 text-[12.5px]">
      {measured.length === 0 && (
        <p className="text-ink-2">Point at a plane, a round surface or a straight edge, then at a second one.</p>
      )}
      {words(0)}
      {words(1)}
      {measured.length === 1 && <p className="mt-1 text-ink-2">Now the second one.</p>}
      {relation && (
        <p className="mono mt-1 border-t border-hair pt-1 text-[13px] text-advice">
          {relation.meet ? exactly(relation.degrees, 'angle') : exactly(relation.distance, 'length', 3)}
          <span className="font-sans text-[12px] text-ink-2">
            {' '}
            {relation.meet
              ? 'between them'
              : relation.degrees > 0.1
                ? `apart at ${exactly(relation.degrees, 'angle', 1)}`
                : 'apart, parallel'}
          </span>
        </p>
      )}
    </div>
  )
}
