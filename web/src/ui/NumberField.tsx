import clsx from 'clsx'
import { Popover } from 'radix-ui'
import { useEffect, useId, useRef, useState } from 'react'
import type { Quantity } from '../core/core'
import { useCore } from '../core/useCore'
import { written } from '../core/written'

// NumberField takes a number with its unit, or a small sum: “2*35”, “3 turns”.
// Enter takes it over, Escape leaves it as it was.
export function NumberField({
  value,
  onChange,
  ...rest
}: Omit<NumbersFieldProps, 'values' | 'onChange'> & { value: number; onChange(v: number): void }) {
  return <NumbersField values={[value]} onChange={(v) => onChange(v[0]!)} {...rest} />
}

interface NumbersFieldProps {
  values: readonly number[]
  onChange(v: number[]): void
  quantity: Quantity
  label: string
  className?: string
  disabled?: boolean
}

// NumbersField is one field for several values: a number for all of them, or a
// change of each, “+0.5” or “*2”.
export function NumbersField({ values, onChange, quantity, label, className, disabled }: NumbersFieldProps) {
  const core = useCore()
  const mixed = values.some((v) => v !== values[0])
  const shown = mixed ? 'several' : written(values[0] ?? 0, quantity)
  const [text, setText] = useState(shown)
  const [wrong, setWrong] = useState<string | null>(null)
  const editing = useRef(false)
  const begun = useRef('') // what stood there when the field got the focus
  const id = useId()
  const taken = useRef(shown)
  useEffect(() => {
    taken.current = shown
    if (editing.current && text !== begun.current) return // what is being typed is never replaced
    begun.current = shown
    setText(shown)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when the value changes
  }, [shown])

  const take = () => {
    editing.current = false
    if (text === shown || text === begun.current || !core) {
      setWrong(null)
      setText(shown)
      return
    }
    try {
      const v = core.ask('adjust', { kind: quantity, text, values: [...values] })
      setWrong(null)
      setText(v.every((x) => x === v[0]) ? written(v[0]!, quantity) : 'several')
      onChange(v)
      setTimeout(() => !editing.current && setText(taken.current)) // what was taken may be another number, or none
    } catch (e) {
      setWrong((e as Error).message)
    }
  }

  return (
    <Popover.Root open={wrong !== null}>
      <Popover.Anchor asChild>
        <input
          aria-label={label}
          aria-invalid={wrong !== null}
          aria-describedby={wrong ? id : undefined}
          title={wrong ? undefined : mixed ? 'A number for all of them, or a change of each: +0.5, *2' : undefined}
          disabled={disabled}
          value={text}
          onFocus={(e) => {
            editing.current = true
            begun.current = text
            e.target.select()
          }}
          onChange={(e) => setText(e.target.value)}
          onBlur={take}
          onKeyDown={(e) => {
            e.stopPropagation()
            if (e.key === 'Enter') e.currentTarget.blur()
            if (e.key === 'Escape') {
              setText(shown)
              setWrong(null)
              editing.current = false
              requestAnimationFrame(() => (document.activeElement as HTMLElement | null)?.blur())
            }
          }}
          className={clsx(
            'mono h-7 w-full rounded-md border bg-white px-2 text-right text-[12.5px] hover:border-ink-3 disabled:bg-transparent disabled:text-ink-3',
            wrong ? 'border-signal' : 'border-line',
            className,
          )}
        />
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          id={id}
          role="alert"
          aria-label={wrong ?? undefined}
          side="bottom"
          align="end"
          sideOffset={3}
          onOpenAutoFocus={(e) => e.preventDefault()}
          onCloseAutoFocus={(e) => e.preventDefault()}
          className="z-50 max-w-64 rounded-[3px] border border-signal bg-signal-soft px-2 py-1 text-[12px] text-ink shadow-md"
        >
          {wrong}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
