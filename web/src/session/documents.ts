// Reveals as documents: duplicated, reversed, deleted, saved as a file, brought in
// from one.
import { answer, api, words } from '../api/client'
import { useSession } from './session'

// newReveal adds an empty reveal and gives its id.
export async function newReveal(): Promise<string | null> {
  const { addReveal, reveals, tell } = useSession.getState()
  try {
    return await addReveal(`Reveal ${reveals.length + 1}`)
  } catch (e) {
    tell(words(e))
    return null
  }
}

export async function duplicateReveal(): Promise<string | null> {
  const { doc, bringReveal, tell } = useSession.getState()
  try {
    return doc ? (await bringReveal(doc, `${doc.title}, copy`.slice(0, 200))).id : null
  } catch (e) {
    tell(words(e))
    return null
  }
}

export function saveReveal() {
  const { doc } = useSession.getState()
  if (!doc) return
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([JSON.stringify(doc, null, 2) + '\n'], { type: 'application/json' }))
  link.download = `${doc.title.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase() || 'reveal'}.reveal.json`
  link.click()
  URL.revokeObjectURL(link.href)
}

// bringFile says what of the file did not fit this assembly.
export async function bringFile(file: File | undefined): Promise<string | null> {
  if (!file) return null
  const { bringReveal, tell } = useSession.getState()
  try {
    const { id, unmatched } = await bringReveal(JSON.parse(await file.text()))
    if (unmatched.length > 0)
      tell(
        `${unmatched.length} things in ${file.name} did not match this assembly and were left out, first: ${unmatched[0]}.`,
      )
    return id
  } catch (e) {
    tell(e instanceof SyntaxError ? `${file.name} is no JSON file.` : words(e))
    return null
  }
}

// removeReveal deletes a reveal and offers to bring it back; false where that failed.
export async function removeReveal(id: string): Promise<boolean> {
  const { reveals, revealId, tell, idle } = useSession.getState()
  const r = reveals.find((x) => x.id === id)
  if (!r) return false
  const back = () =>
    void answer(api.POST('/api/reveals/{id}/restore', { params: { path: { id } } })).then(
      () => useSession.setState((s) => ({ reveals: [...s.reveals, r] })),
      (e: unknown) => tell(words(e)),
    )
  try {
    await idle()
    await answer(api.DELETE('/api/reveals/{id}', { params: { path: { id } } }))
    useSession.setState({ reveals: reveals.filter((x) => x.id !== id), ...(revealId === id && { revealId: null }) })
    useSession.getState().inform(`“${r.title}” is deleted.`, { text: 'Bring it back', run: back })
    return true
  } catch (e) {
    tell(words(e))
    return false
  }
}

// reverseReveal adds a reveal that shows the open one backwards, and gives its id.
export async function reverseReveal(): Promise<string | null> {
  const { revealId, tell, idle } = useSession.getState()
  try {
    await idle()
    const r = await answer(api.POST('/api/reveals/{id}/reverse', { params: { path: { id: revealId! } } }))
    useSession.setState((s) => ({ reveals: [...s.reveals, r] }))
    return r.id
  } catch (e) {
    tell(words(e))
    return null
  }
}
