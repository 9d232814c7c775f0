import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Trash2, Upload } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { answer, api, words, type Project } from '../api/client'
import { go } from '../session/route'
import { Button, Dialog, IconButton } from '../ui/controls'
import { Imports, sendFiles, useImports } from './Imports'

// Projects is where everything begins: choose one, or bring a file.
export function Projects() {
  const projects = useQuery({ queryKey: ['projects'], queryFn: () => answer(api.GET('/api/projects')) })
  const client = useQueryClient()
  const [busy, setBusy] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [brought, setBrought] = useState<string | null>(null)
  const [over, setOver] = useState(false)
  const [doomed, setDoomed] = useState<Project | null>(null)
  const input = useRef<HTMLInputElement>(null)

  const imports = useImports()

  // What was brought here opens by itself once it is there.
  const arrived = imports.data?.find((i) => i.id === brought && i.state === 'done')?.projectId
  useEffect(() => {
    if (arrived) go(`/p/${arrived}/prepare`)
  }, [arrived])
  // What others bring, and what was brought before, comes into the list.
  const done = imports.data?.filter((i) => i.state === 'done').length
  useEffect(() => void client.invalidateQueries({ queryKey: ['projects'] }), [client, done])

  const bring = async (list: FileList | null) => {
    const files = [...(list ?? [])]
    if (files.length === 0) return
    setBusy(files.length === 1 ? files[0]!.name : `${files.length} files`)
    setProblem(null)
    try {
      setBrought((await sendFiles(files)).id)
      await client.invalidateQueries({ queryKey: ['imports'] })
    } catch (e) {
      setProblem(words(e))
    }
    setBusy(null)
  }

  return (
    <main className="scroll h-full">
      <div className="mx-auto max-w-[920px] px-8 py-10">
        <h1 className="serif text-[34px] leading-tight font-semibold">Take it apart, slowly.</h1>
        <p className="serif mt-1 max-w-[60ch] text-[15.5px] leading-relaxed text-ink-2">A project is one product: its assembly, and the films that show how it comes apart and goes together.</p>
        <div onDragOver={(e) => { e.preventDefault(); setOver(true) }} onDragLeave={() => setOver(false)}
          onDrop={(e) => { e.preventDefault(); setOver(false); void bring(e.dataTransfer.files) }}
          className={`mt-7 flex items-center gap-5 border border-dashed px-6 py-5 ${over ? 'border-advice bg-advice-soft' : 'border-ink-3 bg-sheet'}`}>
          <Upload size={22} className="shrink-0 text-ink-2" />
          <div className="grow">
            <b className="font-semibold">{busy ? `Sending ${busy}…` : 'Begin with an assembly'}</b>
            <p className="text-ink-2">Drop a STEP, IGES, glTF, 3MF, STL or OBJ file here, with the files that belong to it. Everything stays on this machine.</p>
          </div>
          <input ref={input} type="file" multiple accept=".step,.stp,.iges,.igs,.glb,.gltf,.bin,.3mf,.stl,.obj,.mtl" className="sr-only" tabIndex={-1} aria-label="Assembly file" onChange={(e) => { void bring(e.target.files); e.target.value = '' }} />
          <Button kind="strong" className="h-9 px-4 text-[13.5px]" disabled={busy !== null} onClick={() => input.current?.click()}>Choose a file</Button>
        </div>
        <Imports />
        {problem && <p role="alert" className="mt-3 border-l-4 border-signal bg-signal-soft px-4 py-2.5">{problem}</p>}
        {projects.isError && <p role="alert" className="mt-6 border-l-4 border-signal bg-signal-soft px-4 py-2.5">{words(projects.error)}</p>}
        <ul className="mt-8 border-t border-ink">
          {projects.data?.map((p) => (
            <li key={p.id} className="group flex items-center border-b border-line">
              <a href={`/p/${p.id}/direct`} onClick={(e) => { e.preventDefault(); go(`/p/${p.id}/direct`) }} className="flex grow items-baseline gap-4 py-3.5 hover:bg-white/60 focus-visible:-outline-offset-2">
                <span className="serif grow pl-1 text-[18px] font-semibold">{p.name}</span>
                <span className="text-ink-2">{p.parts} parts</span>
                <span className="w-20 text-ink-2">{p.reveals === 1 ? '1 reveal' : `${p.reveals} reveals`}</span>
                <span className="mono w-24 text-right text-[12px] text-ink-2">{p.createdAt.slice(0, 10)}</span>
              </a>
              <IconButton label={`Delete ${p.name}`} className="mx-2" onClick={() => setDoomed(p)}><Trash2 size={14} /></IconButton>
            </li>
          ))}
        </ul>
        {projects.data?.length === 0 && <p className="mt-4 text-ink-2">There is no project yet.</p>}
      </div>
      <Dialog open={doomed !== null} onClose={() => setDoomed(null)} title={`Delete ${doomed?.name}?`}>
        <p className="mb-4">Its assembly, its {doomed?.reveals === 1 ? 'reveal' : `${doomed?.reveals} reveals`} and its films go with it. This cannot be undone.</p>
        <div className="flex justify-end gap-2">
          <Button onClick={() => setDoomed(null)}>Keep it</Button>
          <Button kind="strong" onClick={() => {
            const id = doomed!.id
            setDoomed(null)
            answer(api.DELETE('/api/projects/{id}', { params: { path: { id } } })).then(() => client.invalidateQueries({ queryKey: ['projects'] }), (e) => setProblem(words(e)))
          }}>Delete</Button>
        </div>
      </Dialog>
    </main>
  )
}
