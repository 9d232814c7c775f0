import { useMemo } from 'react'
import { useCore } from '../core/useCore'

// Prose shows the little Markdown of instructions, as the core reads it.
export function Prose({ text }: { text: string }) {
  const core = useCore()
  const blocks = useMemo(() => core?.ask('prose', { text }) ?? [], [core, text])
  return blocks.map((b, i) => (
    <span
      key={i}
      className={b.item ? 'relative block pl-3 before:absolute before:left-0 before:content-["–"]' : 'block'}
    >
      {b.runs.map((r, k) =>
        r.strong ? (
          <strong key={k} className="text-ink">
            {r.text}
          </strong>
        ) : r.emphasis ? (
          <em key={k}>{r.text}</em>
        ) : (
          r.text
        ),
      )}
    </span>
  ))
}
