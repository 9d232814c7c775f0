import { Clapperboard } from 'lucide-react'
import { useEffect, useState } from 'react'
import { answer, api, words, type Schemas } from '../api/client'
import { go } from '../session/route'
import { useSession } from '../session/session'
import { Button } from '../ui/controls'

const again = 500 // ms until it is asked again how far the server has come

// FirstFilm makes a reveal of what has just arrived: a planned teardown with shots and words, the way back and a turn around, as something to change.
export function FirstFilm() {
  const project = useSession((s) => s.project?.id)
  const [state, setState] = useState<Schemas['PlanState'] | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const busy = state !== null && !state.done
  useEffect(() => {
    if (!busy || !project) return
    const path = { params: { path: { id: project } } }
    const wait = setTimeout(() => {
      answer(api.GET('/api/projects/{id}/firstfilm', path)).then(setState, (e: unknown) => {
        setProblem(words(e))
        setState(null)
      })
    }, again)
    return () => clearTimeout(wait)
  }, [busy, project, state])
  useEffect(() => {
    if (!state?.done) return
    if (state.problem) setProblem(state.problem)
    else if (state.reveal)
      void useSession
        .getState()
        .refreshReveals()
        .then(() => go(`/p/${project}/direct/${state.reveal}`))
  }, [state, project])
  if (!project) return null
  const begin = () => {
    setProblem(null)
    answer(api.POST('/api/projects/{id}/firstfilm', { params: { path: { id: project } } })).then(
      setState,
      (e: unknown) => setProblem(words(e)),
    )
  }
  const moves = state?.plan?.moves.length ?? 0
  return (
    <div className="mt-4 border border-line bg-sheet-2 p-3">
      <p className="text-[12.5px] text-ink-2">
        A teardown is planned and directed: steps, shots and words, the way back and a turn around. It is something to
        change, not to start from nothing.
      </p>
      <Button kind="strong" className="mt-2 w-full" disabled={busy} onClick={begin}>
        <Clapperboard size={14} /> {busy ? 'Making it…' : 'Make a first film'}
      </Button>
      {busy && (
        <p role="status" className="mt-1.5 text-[12px] text-ink-2">
          {moves === 0 ? 'Looking at what can leave…' : `${moves} moves so far; then they are directed and looked at.`}
        </p>
      )}
      {problem && (
        <p role="alert" className="mt-1.5 text-[12.5px] text-signal-ink">
          It could not be made: {problem}
        </p>
      )}
    </div>
  )
}
