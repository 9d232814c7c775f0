import { useSyncExternalStore } from 'react'

export type Phase = 'prepare' | 'direct' | 'proof' | 'release'

export interface Route {
  project: string | null
  phase: Phase
  reveal: string | null
}

const heard = new Set<() => void>()
window.addEventListener('popstate', () => heard.forEach((f) => f()))

export function go(path: string, replace = false) {
  if (replace) history.replaceState(null, '', path)
  else history.pushState(null, '', path)
  heard.forEach((f) => f())
}

/** The phase that the address names. */
export function phaseNow(): Phase {
  const phase = location.pathname.split('/')[3]
  return phase === 'prepare' || phase === 'proof' || phase === 'release' ? phase : 'direct'
}

// useRoute reads the address: /p/<project>/<phase>/<reveal>.
export function useRoute(): Route {
  const path = useSyncExternalStore(
    (f) => {
      heard.add(f)
      return () => heard.delete(f)
    },
    () => location.pathname,
  )
  const [, p, project, , reveal] = path.split('/')
  if (p !== 'p' || !project) return { project: null, phase: 'direct', reveal: null }
  return { project, phase: phaseNow(), reveal: reveal || null }
}
