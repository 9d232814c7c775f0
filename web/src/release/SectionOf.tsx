// Where the product is cut open in a drawing.
import type { Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Choice, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'

type Section = Schemas['Section']

const axes = ['x', 'y', 'z'] as const
type Axis = (typeof axes)[number]

// middleOf is the middle of the assembly along an axis, to a tenth of a millimetre.
function middleOf(axis: Axis): number {
  const [low, high] = useSession.getState().core!.ask('bounds')
  const i = axes.indexOf(axis)
  return Math.round((low[i]! + high[i]!) * 5) / 10
}

/** SectionOf asks whether a drawing has a section, and where it lies. */
export function SectionOf({
  section,
  onChange,
  label,
}: {
  section: Section | undefined
  onChange(s: Section | undefined): void
  label: string
}) {
  const axis = (section?.axis ?? 'x') as Axis
  return (
    <>
      <Tick on={!!section} onChange={(on) => onChange(on ? { axis: 'x', at: middleOf('x') } : undefined)}>
        {label}
      </Tick>
      {section && (
        <div className="-mt-1.5 grid grid-cols-[1fr_84px] gap-2 pl-[22px]">
          <Choice<Axis>
            label="Axis that the section lies across"
            value={axis}
            onChange={(axis) => onChange({ ...section, axis, at: middleOf(axis) })}
            options={axes.map((value) => ({ value, text: value.toUpperCase() }))}
            className="w-full"
          />
          <NumberField
            label="Where the section lies"
            quantity="length"
            value={section.at}
            onChange={(at) => onChange({ ...section, at })}
          />
          <div className="col-span-2">
            <Tick on={section.flip ?? false} onChange={(flip) => onChange({ ...section, flip })}>
              The other half
            </Tick>
          </div>
        </div>
      )}
    </>
  )
}
