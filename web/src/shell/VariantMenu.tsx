import { ChevronDown } from 'lucide-react'
import { useSession } from '../session/session'
import { useShownVariant, useVariants } from '../session/variants'
import { Menu } from '../ui/controls'

// VariantMenu shows the product as one of its variants, where it has some.
export function VariantMenu() {
  const list = useVariants()
  const shown = useShownVariant()
  const { showVariant } = useSession.getState()
  if (list.length === 0) return null
  const text = shown?.name ?? 'All parts'
  const mark = (name: string, on: boolean) => (on ? `${name} ·` : name)
  return (
    <>
      <span className="text-ink-3">/</span>
      <Menu
        label="Variants"
        actions={[
          { text: mark('All parts', !shown), run: () => showVariant('') },
          ...list.map((v) => ({ text: mark(v.name, v.id === shown?.id), run: () => showVariant(v.id) })),
        ]}
      >
        <button
          type="button"
          aria-label={`Variant: ${text}`}
          title="The variant that is shown"
          className="flex min-w-0 items-center gap-1 rounded-md px-1 py-0.5 text-ink-2 hover:bg-hair hover:text-ink"
        >
          <span className="truncate">{text}</span>
          <ChevronDown size={13} className="shrink-0" />
        </button>
      </Menu>
    </>
  )
}
