import { type Phase } from '../session/route'

// Skip leads past the header, to the parts of the open phase.
export function Skip({ phase }: { phase: Phase }) {
  const to = [
    ...(phase === 'direct' ? [['script', 'Script']] : []),
    ...(phase === 'release'
      ? [['main', 'Release']]
      : phase === 'proof'
        ? [['main', 'Proof']]
        : [
            ['stage', 'Stage'],
            ['parts', 'Parts'],
          ]),
    ...(phase === 'direct' ? [['timeline', 'Timeline']] : []),
  ] as [string, string][]
  return (
    <nav aria-label="Skip to" className="fixed top-0 left-1/2 z-50 -translate-x-1/2">
      {to.map(([id, text]) => (
        <button
          key={id}
          type="button"
          onClick={() =>
            [id, 'panels', 'main']
              .map((x) => document.getElementById(x))
              .find(Boolean)
              ?.focus()
          }
          className="sr-only focus-visible:not-sr-only focus-visible:absolute focus-visible:left-0 focus-visible:bg-ink focus-visible:px-3 focus-visible:py-2 focus-visible:whitespace-nowrap focus-visible:text-sheet"
        >
          To the {text.toLowerCase()}
        </button>
      ))}
    </nav>
  )
}
