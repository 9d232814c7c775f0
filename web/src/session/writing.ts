import { useEffect, useRef, useState } from 'react'
import { useSession } from './session'

export interface Writing {
  /** What stands in the field. */
  text: string
  write(text: string): void
  /** Forgets what was written. */
  forget(): void
  /** Takes over what was written. */
  done(): void
}

// useWriting holds a text while it is being written: what others do meanwhile never replaces it. When
// the thing it belongs to is gone, the text is kept and offered; when others have written something else
// there, theirs is. take returns false when a text could not be taken over.
export function useWriting(value: string, what: string, take: (text: string) => boolean): Writing {
  const [written, setWritten] = useState<string | null>(null)
  const now = useRef({ written, value, what, take })
  const begun = useRef(value)
  useEffect(() => {
    now.current = { written, value, what, take }
  })

  const done = useRef(() => {
    const { written, value, what, take } = now.current
    if (written === null) return
    now.current.written = null
    const text = written.trim()
    if (text === value || text === begun.current.trim()) return // there is nothing of one's own in it
    const theirs = value === begun.current ? null : value
    const { inform } = useSession.getState()
    if (!take(text)) keep(text)
    else if (theirs !== null)
      inform(`${what} was changed while you were writing. Yours stands now; it was “${short(theirs)}”.`, {
        text: 'Take the other one',
        run: () => void take(theirs),
      })
  })
  useEffect(() => {
    const end = done.current
    return () => end()
  }, [])

  return {
    text: written ?? value,
    write(text) {
      if (written === null) begun.current = value
      setWritten(text)
    },
    forget() {
      now.current.written = null
      setWritten(null)
    },
    done() {
      done.current()
      setWritten(null)
    },
  }
}

const short = (text: string) => (text.length > 80 ? `${text.slice(0, 79)}…` : text)

// keep offers a text that has no place any more.
function keep(text: string) {
  const { message, tell } = useSession.getState()
  tell(`${message ?? 'This could not be taken over.'} What you wrote is not lost: “${short(text)}”`, {
    text: 'Copy it',
    run: () => void navigator.clipboard.writeText(text),
  })
}
