import { useEffect } from 'react'
import { alive, anythingUnsent, sendAll, sendLeftBehind } from '../session/outbox'
import { useSession } from '../session/session'

// useUnsent keeps what the server has not got: it warns before the window closes, and sends what
// windows that are gone could not send.
export function useUnsent() {
  useEffect(() => {
    alive()
    const warn = (e: BeforeUnloadEvent) => anythingUnsent() && e.preventDefault()
    window.addEventListener('beforeunload', warn)
    window.addEventListener('online', sendAll)
    // Told until it is closed: whoever opens the window may be looking elsewhere while the stage is made ready.
    sendLeftBehind().then(
      (n) =>
        n > 0 &&
        useSession
          .getState()
          .tell(
            `${n === 1 ? 'A change' : `${n} changes`} that had not been stored when the window was closed ${n === 1 ? 'has' : 'have'} been stored now.`,
          ),
      () => undefined,
    )
    return () => {
      window.removeEventListener('beforeunload', warn)
      window.removeEventListener('online', sendAll)
    }
  }, [])
}
