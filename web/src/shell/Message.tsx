import { useEffect } from 'react'
import { useSession } from '../session/session'

export function Message() {
  const message = useSession((s) => s.message)
  const offer = useSession((s) => s.offer)
  const passing = useSession((s) => s.passing)
  const { tell } = useSession.getState()
  useEffect(() => {
    if (!message || !passing) return
    const gone = setTimeout(() => tell(null), 10_000)
    return () => clearTimeout(gone)
  }, [message, passing, tell])
  if (!message) return null
  return (
    <div
      role={passing ? 'status' : 'alert'}
      data-message
      className="fixed bottom-6 left-1/2 z-50 flex max-w-[640px] -translate-x-1/2 items-start gap-4 border-l-4 border-signal bg-ink px-4 py-3 text-sheet shadow-2xl"
    >
      <span>{message}</span>
      {offer && (
        <button
          type="button"
          className="shrink-0 font-semibold underline underline-offset-2"
          onClick={() => {
            offer.run()
            tell(null)
          }}
        >
          {offer.text}
        </button>
      )}
      <button type="button" className="shrink-0 underline underline-offset-2" onClick={() => tell(null)}>
        Close
      </button>
    </div>
  )
}
