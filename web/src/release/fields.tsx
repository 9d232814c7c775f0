import type { ReactNode } from 'react'
import type { Settings } from './settings'

/** What a part of the form shows and changes. */
export interface Part {
  s: Settings
  change(by: Partial<Settings>): void
}

// Row is a labelled line of the order.
export function Row({ label, children, hint }: { label: string; children: ReactNode; hint?: string }) {
  return (
    <div>
      <div className="mb-1 flex items-baseline justify-between gap-2 text-[12px] text-ink-2">
        <span>{label}</span>
        {hint && <span className="mono text-[11px] text-ink-3">{hint}</span>}
      </div>
      {children}
    </div>
  )
}

// Words is a field for a line of text.
export function Words({
  label,
  value,
  onChange,
  placeholder,
}: {
  label: string
  value: string
  onChange(v: string): void
  placeholder?: string
}) {
  return (
    <input
      aria-label={label}
      value={value}
      maxLength={120}
      placeholder={placeholder}
      onChange={(e) => onChange(e.target.value)}
      className="h-7 w-full rounded-md border border-line bg-white px-2 text-[12.5px] placeholder:text-ink-3 hover:border-ink-3"
    />
  )
}
