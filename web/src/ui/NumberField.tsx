import clsx from 'clsx'
import { useEffect, useRef, useState } from 'react'
import type { Quantity } from '../core/core'
import { useSession } from '../session/session'

const units: Record<Quantity, string> = { length: ' mm', angle: '°', time: ' s', percent: ' %', plain: '' }

export function formatted(value: number, quantity: Quantity, digits = 2): string {
  const text = Number(value.toFixed(digits)).toString().replace('-', '−')
  return (quantity === 'time' ? value.toFixed(2).replace('-', '−') : text) + units[quantity]
}

// NumberField takes a number with its unit, or a small sum: “2*35”, “3 turns”.
// Enter takes it over, Escape leaves it as it was.
export function NumberField({ value, onChange, quantity, label, className, disabled, mixed }: {
  value: number
  onChange(v: number): void
  quantity: Quantity
  label: string
  className?: string
  disabled?: boolean
  mixed?: boolean
}) {
  const core = useSession((s) => s.core)
  const shown = mixed ? 'several' : formatted(value, quantity)
  const [text, setText] = useState(shown)
  const [wrong, setWrong] = useState<string | null>(null)
  const editing = useRef(false)
  useEffect(() => {
    if (!editing.current) setText(shown)
  }, [shown])

  const take = () => {
    editing.current = false
    if (text === shown || !core) {
      setWrong(null)
      setText(shown)
      return
    }
    try {
      const v = core.ask<number>({ ask: 'measure', quantity, text })
      setWrong(null)
      setText(formatted(v, quantity))
      onChange(v)
    } catch (e) {
      setWrong((e as Error).message)
    }
  }

  return (
    <input
      aria-label={label}
      aria-invalid={wrong !== null}
      title={wrong ?? undefined}
      disabled={disabled}
      value={text}
      onFocus={(e) => {
        editing.current = true
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
      className={clsx('mono h-7 w-full rounded-md border bg-white px-2 text-right text-[12.5px] hover:border-ink-3 disabled:bg-transparent disabled:text-ink-3',
        wrong ? 'border-signal' : 'border-line', className)}
    />
  )
}
