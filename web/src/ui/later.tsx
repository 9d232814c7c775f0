import { useEffect, useState, type ComponentType } from 'react'

// Later is a view whose script is fetched when it is first shown, or before, when there is nothing else to do.
export interface Later {
  View: ComponentType
  fetch(): Promise<unknown>
}

// later keeps what has been fetched, and forgets what could not be, so that it can be tried again.
export function later(load: () => Promise<ComponentType>): Later {
  let view: ComponentType | null = null
  let coming: Promise<ComponentType> | null = null
  const fetch = () =>
    (coming ??= load().then(
      (loaded) => (view = loaded),
      () => {
        coming = null
        throw new Error(
          'Its script could not be fetched: the line is down, or the server has another version now. Try again, or load the page anew.',
        )
      },
    ))
  function View() {
    const [, arrived] = useState<{ view: ComponentType | null }>({ view })
    const [trouble, setTrouble] = useState<Error | null>(null)
    useEffect(() => {
      if (!view) fetch().then((loaded) => arrived({ view: loaded }), setTrouble)
    }, [])
    if (trouble) throw trouble
    const Shown = view
    return Shown ? (
      <Shown />
    ) : (
      <p role="status" className="p-10 text-ink-2">
        Opening…
      </p>
    )
  }
  return { View, fetch }
}
