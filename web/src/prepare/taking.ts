// A new revision on its way in: chosen beside the report, or dropped on the stage.
import { create } from 'zustand'
import { answer, api, words } from '../api/client'
import { sendFiles } from '../phases/Imports'
import { useSession } from '../session/session'

/** The import that is on its way, and whether its files are being sent. */
export const useTaking = create<{ asked: string | null; sending: boolean }>(() => ({ asked: null, sending: false }))

/** takeRevision sends the files of the open project's next revision. */
export const takeRevision = (files: readonly File[]) =>
  files.length === 0 ? Promise.resolve() : take((project) => sendFiles(files, project))

/** takeBefore has the revision before come in once more, as the next one. */
export const takeBefore = () =>
  take((id) => answer(api.POST('/api/projects/{id}/imports/before', { params: { path: { id } } })))

async function take(begin: (project: string) => Promise<{ id: string }>) {
  const { project, idle, tell } = useSession.getState()
  if (!project || useTaking.getState().sending) return
  useTaking.setState({ sending: true })
  try {
    await idle() // the reveals must be stored before they are carried over
    useTaking.setState({ asked: (await begin(project.id)).id })
  } catch (e) {
    tell(words(e))
  }
  useTaking.setState({ sending: false })
}
