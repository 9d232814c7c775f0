import { leaveEye, setEye } from '../session/eye'
import { useCallback, useEffect, useState } from 'react'
import { words } from '../api/client'
import { sendAll } from '../session/outbox'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { resume, whereaboutsIn } from '../session/whereabouts'

// useOpen brings the project and the reveal of the address into the editor.
export function useOpen(project: string | null, reveal: string | null): [string | null, () => void] {
  const [problem, setProblem] = useState<string | null>(null)
  const [tries, setTries] = useState(0)
  useEffect(() => {
    const s = useSession.getState()
    setProblem(null)
    if (!project) return s.close()
    let gone = false
    const bring = async () => {
      if (useSession.getState().project?.id !== project) await s.openProject(project)
      const { reveals, revealId } = useSession.getState()
      const wanted = reveal ?? revealId ?? reveals[reveals.length - 1]?.id
      if (!wanted || gone || wanted === revealId) return
      await s.openReveal(wanted)
      useTransport.setState({ time: 0, playing: false })
      const was = whereaboutsIn(wanted)
      if (!was) return
      if (was.camera) leaveEye(wanted, was.camera)
      setEye(was.eye)
      resume(was)
    }
    bring().catch((e: unknown) => !gone && setProblem(words(e)))
    return () => void (gone = true)
  }, [project, reveal, tries])
  return [
    problem,
    useCallback(() => {
      sendAll()
      setTries((n) => n + 1)
    }, []),
  ]
}
