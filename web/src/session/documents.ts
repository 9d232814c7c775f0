// Reveals as documents: duplicated, saved as a file, brought in from one.
import { words } from '../api/client'
import { useSession } from './session'

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
    if (unmatched.length > 0) tell(`${unmatched.length} things in ${file.name} did not match this assembly and were left out, first: ${unmatched[0]}.`)
    return id
  } catch (e) {
    tell(e instanceof SyntaxError ? `${file.name} is no JSON file.` : words(e))
    return null
  }
}
