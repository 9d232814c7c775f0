import { useState } from 'react'
import { useMechanism } from '../session/mechanism'
import { useSession } from '../session/session'
import { useVariants } from '../session/variants'
import { Choice } from '../ui/controls'
import { Joints } from './Joints'
import { Sets } from './Sets'
import { Variants } from './Variants'

const names = { sets: 'Part sets', joints: 'Joints', variants: 'Variants' }

// Gathered is what is kept of parts beside their tree: part sets, joints between them, and variants of the product.
export function Gathered() {
  const jointed = useMechanism((s) => s.shown)
  const [other, setOther] = useState<'sets' | 'variants'>(useSession.getState().variant ? 'variants' : 'sets')
  const shown = jointed ? 'joints' : other
  const joints = useSession((s) => s.assembly?.joints?.length ?? 0)
  const variants = useVariants().length
  const counted = (text: string, n: number) => (n > 0 ? `${text} ${n}` : text)
  return (
    <section aria-label={names[shown]} className="scroll min-h-0 border-t border-ink px-3 py-2.5">
      <Choice<keyof typeof names>
        label="Part sets, joints or variants"
        value={shown}
        onChange={(v) => {
          useMechanism.setState({ shown: v === 'joints' })
          if (v !== 'joints') setOther(v)
        }}
        options={[
          { value: 'sets', text: 'Part sets' },
          { value: 'joints', text: counted('Joints', joints) },
          { value: 'variants', text: counted('Variants', variants) },
        ]}
        className="mb-2 w-full"
      />
      {shown === 'sets' ? <Sets /> : shown === 'joints' ? <Joints /> : <Variants />}
    </section>
  )
}
