import createClient from 'openapi-fetch'
import { patiently, upload } from './patient'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']
export type Project = Schemas['Project']
export type Assembly = Schemas['Assembly']
export type Node = Schemas['Node']
export type Finish = Schemas['Finish']
export type RevealDocument = Schemas['Reveal']
export type Step = Schemas['Step']
export type Cue = Schemas['Cue']
export type Camera = Schemas['Camera']
export type Command = Schemas['Command']
export type Schedule = Schemas['Schedule']
export type Bar = Schemas['Bar']
export type Report = Schemas['Report']
export type Output = Schemas['Output']
export type Import = Schemas['Import']
export type Problem = Schemas['Problem']
export type Changed = Schemas['Changed']

export const api = createClient<paths>({ baseUrl: location.origin, fetch: patiently })

// Refused carries the server's own words on what is wrong.
export class Refused extends Error {
  constructor(
    readonly problem: Problem,
    readonly status: number,
  ) {
    super(problem.message)
  }
}

interface Answer<T> {
  data?: T
  error?: Problem
  response: Response
}

// answer returns the data of a reply, or throws what went wrong.
export async function answer<T>(reply: Promise<Answer<T>>): Promise<T> {
  const r = await reply
  if (r.error !== undefined) throw new Refused(r.error, r.response.status)
  return r.data as T
}

/** uploaded sends files in a form and returns what came of them. */
export async function uploaded<T>(address: string, form: () => FormData): Promise<T> {
  const reply = await upload(address, form)
  const said: unknown = await reply.json()
  if (!reply.ok) throw new Refused(said as Problem, reply.status)
  return said as T
}

export function words(error: unknown): string {
  if (error instanceof Refused) return error.message
  if (error instanceof TypeError)
    return 'The server does not answer. What you changed waits here and will be sent when it is back.'
  return error instanceof Error ? error.message : String(error)
}
