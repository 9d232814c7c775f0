import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { type Schemas } from '../api/client'
import { useLine } from '../api/line'
import { heard } from '../session/presence'
import { sendAll } from '../session/outbox'
import { useSession } from '../session/session'

const silence = 2000 // ms without a line before it is said

// useEvents listens to what other pages and the workers do.
export function useEvents(project: string | null) {
  const client = useQueryClient()
  useEffect(() => {
    if (!project) return
    const source = new EventSource(`/api/projects/${project}/events`)
    // What happened before the line stood, or while it was down, is fetched.
    const everything = () => {
      const s = useSession.getState()
      void s.catchUp(Infinity)
      void s.refreshArranged(Infinity)
      s.refreshReveals().catch(() => undefined) // the next event tells
      void client.invalidateQueries({ queryKey: ['outputs', project] })
      void client.invalidateQueries({ queryKey: ['renewal', project] })
    }
    let before = false
    let quiet: ReturnType<typeof setTimeout> | undefined
    const heardOf = (silent: boolean) => {
      clearTimeout(quiet)
      quiet = silent ? setTimeout(() => useLine.setState({ silent }), silence) : undefined
      if (!silent) useLine.setState({ silent })
    }
    source.onerror = () => quiet ?? heardOf(true)
    source.onopen = () => {
      heardOf(false)
      sendAll()
      if (before) everything()
      else void useSession.getState().catchUp(Infinity)
      before = true
    }
    source.onmessage = (m) => {
      const e = JSON.parse(m.data as string) as Schemas['Event']
      const s = useSession.getState()
      if (e.kind === 'reveal' && e.id === s.revealId) void s.catchUp(e.version ?? 0)
      if (e.kind === 'presence' && e.presence) heard(e.id, e.presence)
      if (e.kind === 'arrangement') void s.refreshArranged(e.version)
      if (e.kind === 'import') void s.refreshArranged()
      if (e.kind === 'reveals') s.refreshReveals().catch(() => undefined)
      if (e.kind === 'missed') {
        sendAll() // the database was away, and is back
        everything()
      }
      if (e.kind === 'renewal') void client.invalidateQueries({ queryKey: ['renewal', project] })
      if (e.kind === 'output') void client.invalidateQueries({ queryKey: ['outputs', project] })
    }
    return () => {
      source.close()
      heardOf(false)
    }
  }, [project, client])
}
