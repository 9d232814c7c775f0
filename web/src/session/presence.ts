// Where others are in the reveal that is open here, and telling them where we are.
import { create } from 'zustand'
import { api, type Schemas } from '../api/client'
import { kindNames } from '../ui/glyphs'
import { findCue } from './cues'
import { myName, page } from './me'
import { namesOf, useSession } from './session'
import { useTransport } from './transport'

type Presence = Schemas['Presence']

interface Other extends Presence {
  reveal: string
  seen: number // ms
}

export const usePresence = create<{ others: Other[] }>(() => ({ others: [] }))

const forgotten = 40_000 // ms: who says nothing for so long is not counted

// heard takes in where somebody is.
export function heard(reveal: string, p: Presence) {
  if (p.page === page) return
  const others = usePresence.getState().others.filter((o) => o.page !== p.page && Date.now() - o.seen < forgotten)
  usePresence.setState({ others: p.gone ? others : [...others, { ...p, reveal, seen: Date.now() }] })
}

function selectedWords(): string {
  const { selection, assembly, doc } = useSession.getState()
  if (selection.cues.length > 1) return `${selection.cues.length} cues`
  if (selection.cues.length === 1) return kindNames[findCue(selection.cues[0]!)?.cue.kind ?? ''] ?? ''
  if (selection.step) return doc?.steps.find((s) => s.id === selection.step)?.title ?? ''
  return selection.nodes.length > 0 ? namesOf(assembly, selection.nodes) : ''
}

// announce begins to tell the other pages where this one is, and returns what ends
// it. It speaks when something has changed, at most once a second, and now and then
// to be remembered.
export function announce(reveal: string): () => void {
  let said = ''
  let last = 0
  const say = (gone: boolean) => {
    const body: Presence = {
      page,
      name: myName() || 'Somebody',
      time: useTransport.getState().time,
      selected: selectedWords() || undefined,
      gone: gone || undefined,
    }
    const text = JSON.stringify(body)
    if (text === said && Date.now() - last < forgotten / 2) return
    said = text
    last = Date.now()
    api
      .POST('/api/reveals/{id}/presence', { params: { path: { id: reveal } }, body, keepalive: gone })
      .catch(() => undefined)
  }
  const beat = setInterval(() => say(false), 1000)
  const leave = () => say(true)
  window.addEventListener('pagehide', leave)
  say(false)
  return () => {
    clearInterval(beat)
    window.removeEventListener('pagehide', leave)
    say(true)
    usePresence.setState({ others: [] })
  }
}
