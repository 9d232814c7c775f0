import { useQuery, useQueryClient } from '@tanstack/react-query'
import { FileUp, Trash2, Upload } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { answer, api, words, type Project } from '../api/client'
import { go } from '../session/route'
import { Button, Dialog, IconButton, Select } from '../ui/controls'
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

  const bring = async (list: FileList | null, project?: string) => {
    const files = [...(list ?? [])]
    if (files.length === 0) return
    setBusy(files.length === 1 ? files[0]!.name : `${files.length} files`)
    setProblem(null)
    try {
      setBrought((await sendFiles(files, project)).id)
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
        <p className="serif mt-1 max-w-[60ch] text-[15.5px] leading-relaxed text-ink-2">
          A project is one product: its assembly, and the films that show how it comes apart and goes together.
        </p>
        <div
          onDragOver={(e) => {
            e.preventDefault()
            setOver(true)
          }}
          onDragLeave={() => setOver(false)}
          onDrop={(e) => {
            e.preventDefault()
            setOver(false)
            void bring(e.dataTransfer.files)
          }}
          className={`mt-7 flex items-center gap-5 border border-dashed px-6 py-5 ${over ? 'border-advice bg-advice-soft' : 'border-ink-3 bg-sheet'}`}
        >
          <Upload size={22} className="shrink-0 text-ink-2" />
          <div className="grow">
            <b className="font-semibold">{busy ? `Sending ${busy}…` : 'Begin with an assembly'}</b>
            <p className="text-ink-2">
              Drop a STEP, IGES, glTF, 3MF, STL or OBJ file here, with the files that belong to it. Several assemblies
              together are variants of one product. Everything stays on this machine.
            </p>
          </div>
          <input
            ref={input}
            type="file"
            multiple
            accept=".step,.stp,.iges,.igs,.glb,.gltf,.bin,.3mf,.stl,.obj,.mtl"
            className="sr-only"
            tabIndex={-1}
            aria-label="Assembly file"
            onChange={(e) => {
              void bring(e.target.files)
              e.target.value = ''
            }}
          />
          <Button
            kind="strong"
            className="h-9 px-4 text-[13.5px]"
            disabled={busy !== null}
            onClick={() => input.current?.click()}
          >
            Choose a file
          </Button>
        </div>
        <Imports />
        {problem && (
          <p role="alert" className="mt-3 border-l-4 border-signal bg-signal-soft px-4 py-2.5">
            {problem}
          </p>
        )}
        {projects.isError && (
          <p role="alert" className="mt-6 border-l-4 border-signal bg-signal-soft px-4 py-2.5">
            {words(projects.error)}
          </p>
        )}
        {(projects.data?.length ?? 0) > 0 && (
          <List projects={projects.data!} onDelete={setDoomed} onRevise={(f, id) => void bring(f, id)} />
        )}
        {projects.data?.length === 0 && <Beginning />}
      </div>
      <Dialog open={doomed !== null} onClose={() => setDoomed(null)} title={`Delete ${doomed?.name}?`}>
        <p className="mb-4">
          Its assembly, its {doomed?.reveals === 1 ? 'reveal' : `${doomed?.reveals} reveals`} and its films go with it.
          This cannot be undone.
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={() => setDoomed(null)}>Keep it</Button>
          <Button
            kind="strong"
            onClick={() => {
              const id = doomed!.id
              setDoomed(null)
              answer(api.DELETE('/api/projects/{id}', { params: { path: { id } } })).then(
                () => client.invalidateQueries({ queryKey: ['projects'] }),
                (e) => setProblem(words(e)),
              )
            }}
          >
            Delete
          </Button>
        </div>
      </Dialog>
    </main>
  )
}

const orders = {
  worked: { text: 'Worked on last', by: (a: Project, b: Project) => b.changedAt.localeCompare(a.changedAt) },
  brought: { text: 'Brought last', by: (a: Project, b: Project) => b.createdAt.localeCompare(a.createdAt) },
  name: { text: 'By name', by: (a: Project, b: Project) => a.name.localeCompare(b.name, 'en', { numeric: true }) },
}
type Order = keyof typeof orders

const many = 6 // from so many on they are searched and put in order

// List is all projects, each with its picture and what was made of it last.
function List({
  projects,
  onDelete,
  onRevise,
}: {
  projects: readonly Project[]
  onDelete(p: Project): void
  onRevise(files: FileList | null, project: string): void
}) {
  const [search, setSearch] = useState('')
  const [order, setOrder] = useState<Order>('worked')
  const wanted = search.toLowerCase().split(/\s+/).filter(Boolean)
  const shown = projects.filter((p) => wanted.every((w) => p.name.toLowerCase().includes(w))).sort(orders[order].by)
  return (
    <section aria-label="Projects" className="mt-8">
      {projects.length >= many && (
        <div className="mb-3 flex items-center gap-3">
          <input
            type="search"
            aria-label="Find a project"
            placeholder={`Find among ${projects.length} projects`}
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            className="h-8 w-72 rounded-md border border-line bg-white px-2.5 text-[13px] placeholder:text-ink-3 hover:border-ink-3"
          />
          <div className="grow" />
          <Select<Order>
            label="Order"
            value={order}
            onChange={setOrder}
            options={Object.entries(orders).map(([value, o]) => ({ value: value as Order, text: o.text }))}
          />
        </div>
      )}
      <ul className="border-t border-ink">
        {shown.map((p) => (
          <li key={p.id} className="group flex items-center border-b border-line">
            <a
              href={`/p/${p.id}/direct`}
              onClick={(e) => {
                e.preventDefault()
                go(`/p/${p.id}/direct`)
              }}
              className="flex min-w-0 grow items-center gap-4 py-2.5 hover:bg-white/60 focus-visible:-outline-offset-2"
            >
              <img
                src={`/api/projects/${p.id}/picture?of=${p.look}`}
                alt=""
                loading="lazy"
                width={96}
                height={72}
                onError={(e) => (e.currentTarget.style.visibility = 'hidden')}
                className="h-[72px] w-24 shrink-0 border border-hair bg-sheet-2"
              />
              <span className="min-w-0 grow">
                <span className="serif block truncate text-[18px] leading-snug font-semibold" title={p.name}>
                  {p.name}
                </span>
                <span className="block text-ink-2">
                  {p.parts === 1 ? '1 part' : `${p.parts.toLocaleString('en')} parts`},{' '}
                  {p.reveals === 1 ? '1 reveal' : `${p.reveals} reveals`}
                </span>
                <span className="block truncate text-[12.5px] text-ink-2" title={p.lastMade}>
                  {p.lastMade ? `Made last: ${p.lastMade}, ${day(p.lastMadeAt!)}` : 'Nothing made of it yet'}
                </span>
              </span>
              <span className="w-28 shrink-0 text-right text-[12px] text-ink-2">
                worked on
                <br />
                <span className="mono">{day(p.changedAt)}</span>
              </span>
            </a>
            <Revise project={p} onFiles={(files) => onRevise(files, p.id)} />
            <IconButton label={`Delete ${p.name}`} className="mr-2" onClick={() => onDelete(p)}>
              <Trash2 size={14} />
            </IconButton>
          </li>
        ))}
      </ul>
      {shown.length === 0 && <p className="mt-3 text-ink-2">No project is called “{search}”.</p>}
    </section>
  )
}

// Revise takes a file for the next revision of a project.
function Revise({ project, onFiles }: { project: Project; onFiles(files: FileList | null): void }) {
  const input = useRef<HTMLInputElement>(null)
  return (
    <>
      <IconButton label={`New revision of ${project.name}`} className="ml-2" onClick={() => input.current?.click()}>
        <FileUp size={14} />
      </IconButton>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label={`File of the new revision of ${project.name}`}
        onChange={(e) => {
          onFiles(e.target.files)
          e.target.value = ''
        }}
      />
    </>
  )
}

const day = (at: string) =>
  new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })

const firstMinutes = [
  {
    at: '0–2 min',
    what: 'Bring the assembly',
    how: 'Drop its file above. A report says what has come, and what was mended or is missing.',
  },
  {
    at: '2–4 min',
    what: 'Prepare',
    how: 'Look what is alike and what holds what; keep part sets that you will move together; give finishes.',
  },
  {
    at: '4–9 min',
    what: 'Direct',
    how: 'Pick a part on the stage and choose where it goes: the first step of the script writes itself. Take shots of what your eye sees.',
  },
  { at: '9–10 min', what: 'Release', how: 'Make a draft, watch the timing, then make the film.' },
]

// Beginning shows, where there is no project yet, what the first ten minutes look like.
function Beginning() {
  return (
    <section aria-label="The first ten minutes" className="mt-9">
      <h2 className="serif text-[20px] font-semibold">The first ten minutes</h2>
      <ol className="mt-3 grid grid-cols-4 gap-px border border-line bg-line">
        {firstMinutes.map((m) => (
          <li key={m.what} className="bg-paper px-4 py-3.5">
            <span className="mono text-[11.5px] text-ink-2">{m.at}</span>
            <b className="serif block text-[16px] font-semibold">{m.what}</b>
            <p className="mt-1 text-[12.5px] leading-snug text-ink-2">{m.how}</p>
          </li>
        ))}
      </ol>
      <p className="mt-3 text-ink-2">
        There is no project yet. “make demo” starts with an example, the dosing pump, that can be played with.
      </p>
    </section>
  )
}
