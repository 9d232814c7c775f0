// A new revision on its way in: chosen beside the report, or dropped on the stage.
import { create } from 'zustand'
import { words } from '../api/client'
import { sendFiles } from '../phases/Imports'
import { useSession } from '../session/session'

/** The import that is on its way, and whether its files are being sent. */
export const useTaking = create<{ asked: string | null; sending: boolean }>(() => ({ asked: null, sending: false }))

/** takeRevision sends the files of the open project's next revision. */
export async function takeRevision(files: readonly File[]) {
  const { project, idle, tell } = useSession.getState()
  if (files.length === 0 || !project || useTaking.getState().sending) return
  useTaking.setState({ sending: true })
  try {
    await idle() // the reveals must be stored before they are carried over
    useTaking.setState({ asked: (await sendFiles(files, project.id)).id })
  } catch (e) {
    tell(words(e))
  }
  useTaking.setState({ sending: false })
}
