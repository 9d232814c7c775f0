// A server in memory for the tests of the session: it keeps the log and applies
// commands with a core of its own, as the real one does.
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { vi } from 'vitest'
import type { Command, RevealDocument } from '../api/client'
import { Core } from '../core/core'

interface Entry {
  version: number
  kind: string
  label: string
  command: Command
  inverse: Command
  madeAt: string
  key?: string
  own: boolean
}

interface Body {
  version: number
  edits?: { key: string; command: Command }[]
  edit?: { do: string; node?: string; name?: string }
}

const pump = {
  name: 'Pump',
  nodes: ['/', 'cover', 'screw'].map((id, i) => ({
    id,
    name: id,
    parent: i === 0 ? -1 : 0,
    shape: -1,
    pose: { move: [0, 0, 0], turn: [0, 0, 0, 1] },
  })),
  shapes: [],
  finishes: [],
}

export const opening = { camera: { target: [0, 0, 0], orientation: [0, 0, 0, 1], distance: 500, focalLength: 50 } }

const empty = {
  format: 'slowreveal/reveal/2',
  title: 'Teardown',
  frame: { width: 1920, height: 1080, rate: 30 },
  opening,
  steps: [{ id: 's1', title: 'First', duration: 2_000_000 }],
} as unknown as RevealDocument

export class Stand {
  entries: Entry[] = []
  away = 0 // how many requests get no answer, and do nothing
  lose = 0 // how many requests are carried out, and their answers lost
  requests = 0 // how many changes were asked for
  refuse: string | null = null
  hold: Promise<void> | null = null
  private undone: number[] = []
  constructor(
    private readonly core: Core,
    private readonly assembly: typeof pump,
  ) {
    core.openAssembly(assembly)
    core.openReveal(empty)
  }

  get document() {
    return this.core.settle().reveal!
  }
  get version() {
    return this.entries.length
  }

  /** What the parts are called now; nothing else is arranged here. */
  arranged = { version: 0, names: new Map<string, string>() }

  rearrange(edit: { do: string; node?: string; name?: string }) {
    this.arranged.version++
    this.arranged.names.set(edit.node!, edit.name!)
  }

  private get arrangedNow() {
    const nodes = this.assembly.nodes.map((n) => ({ ...n, name: this.arranged.names.get(n.id) ?? n.name }))
    return {
      assembly: { ...this.assembly, nodes },
      arrangement: { version: this.arranged.version, undo: '', redo: '', sets: [] },
      geometry: '/shapes',
    }
  }

  // other is an edit by somebody else.
  other(command: Command) {
    this.append('edit', command, undefined, false)
  }

  private append(kind: string, command: Command, key?: string, own = true) {
    const inverse = this.core.apply(command).inverse!
    this.entries.push({ version: this.version + 1, kind, label: kind, command, inverse, madeAt: '', key, own })
  }

  private changed(after: number) {
    return {
      version: this.version,
      undoTo: this.version - this.undone.length,
      redoTo: 0,
      entries: this.entries.slice(after),
    }
  }

  /** Whether two commands touch the same cue; the real rule is in core/edit. */
  private clash(a: Command, b: Command) {
    const cue = (c: Command) => c.cueId ?? c.cue?.id
    return cue(a) !== undefined && cue(a) === cue(b)
  }

  async answer(method: string, path: string, body: Body, key?: string): Promise<[number, unknown]> {
    if (this.away > 0) {
      this.away--
      throw new TypeError('no connection')
    }
    const said = await this.reply(method, path, body, key)
    if (method === 'POST' && this.lose > 0) {
      this.lose--
      throw new TypeError('the connection broke')
    }
    return said
  }

  private async reply(method: string, path: string, body: Body, key?: string): Promise<[number, unknown]> {
    if (path.endsWith('/entries')) return [200, this.changed(0)]
    if (path.endsWith('/survey')) return [200, { shapes: [], ready: [], contacts: [], tolerance: 0.1 }]
    if (path.endsWith('/arrange')) {
      if (body.version !== this.arranged.version)
        return [409, { code: 'stale', message: 'somebody was quicker', version: this.arranged.version }]
      this.rearrange(body.edit!)
      return [200, this.arrangedNow]
    }
    if (method === 'GET' && path.startsWith('/api/projects/')) {
      return [
        200,
        {
          project: { id: 'p', name: 'Pump' },
          revision: { id: 'r', fileName: 'pump.glb', report: {}, importId: null },
          arranged: this.arrangedNow,
          reveals: [],
        },
      ]
    }
    if (method === 'GET') return [200, { id: 'v', document: this.document, ...this.changed(0) }]
    this.requests++
    if (this.hold) await this.hold
    if (path.endsWith('/undo')) {
      if (this.entries.some((e) => e.key === key)) return [200, this.changed(body.version)]
      const last = this.entries.findLast((e) => e.own && e.kind === 'edit' && !this.undone.includes(e.version))
      if (!last) return [409, { code: 'nothing-left', message: 'There is nothing to undo.' }]
      this.undone.push(last.version)
      this.append('undo', last.inverse, key)
      return [200, this.changed(body.version)]
    }
    return this.take(body)
  }

  private take(body: Body): [number, unknown] {
    if (this.refuse) return [400, { code: 'refused', message: this.refuse }]
    const others = this.entries.slice(body.version).filter((e) => !body.edits!.some((m) => m.key === e.key))
    for (const [i, e] of body.edits!.entries()) {
      if (this.entries.some((x) => x.key === e.key)) continue
      const clash = others.some((o) => this.clash(o.command, e.command))
      const problem = {
        code: 'stale',
        message: 'Mara has changed the same thing meanwhile',
        version: this.version,
        since: this.entries.slice(body.version),
        key: e.key,
        done: [],
      }
      if (clash && i === 0) return [409, problem]
      if (clash)
        return [
          200,
          { ...this.changed(body.version), refused: { code: 'stale', message: problem.message, key: e.key } },
        ]
      this.append('edit', e.command, e.key)
    }
    return [200, this.changed(body.version)]
  }
}

let core: Promise<Core> | null = null // of the stands, one after the other

// install puts a stand in the place of the network, with a log that is empty, and an assembly of two parts or another one.
export async function install(assembly = pump): Promise<Stand> {
  let stand: Stand | null = null
  vi.stubGlobal('fetch', async (request: Request | string) => {
    if (typeof request === 'string') {
      return new Response(await readFile(join(import.meta.dirname, '../core/core.wasm')), {
        headers: { 'content-type': 'application/wasm' },
      })
    }
    const text = await request.text()
    const key = request.headers.get('Idempotency-Key') ?? undefined
    const [status, body] = await stand!.answer(
      request.method,
      new URL(request.url).pathname,
      text ? JSON.parse(text) : {},
      key,
    )
    return new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } })
  })
  core ??= Core.load()
  stand = new Stand(await core, assembly)
  return stand
}
