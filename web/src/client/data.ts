// What the client page brings along: written into it by package clientpage, each as a block of base64 around gzip.
import type { Assembly, RevealDocument } from '../api/client'

export interface Item {
  item: number
  quantity: number
  name: string
  designation?: string
  finish?: string
  mass?: number
  remark?: string
  parts: string[]
}

export interface Told {
  title: string
  subtitle: string
  assembly: Assembly
  reveals: RevealDocument[]
  items: Item[]
  /** What is told of the items beside number, quantity and name. */
  fields: ('designation' | 'finish' | 'mass' | 'remark')[]
  /** The moment of each reveal at which most is apart, µs. */
  apart: number[]
  /** The day after which the page says that it is old, such as 2027-06-30. */
  until?: string
  logo?: string
}

/** Unpacks a block of the page and takes it out: what was packed is not needed twice. In a folder it lies beside it. */
export async function block(id: string): Promise<Response> {
  const element = document.getElementById(id)
  const packed = element ? new Blob([fromBase64(element.textContent.trim())]) : await beside(id)
  element?.remove()
  return new Response(packed.stream().pipeThrough(new DecompressionStream('gzip')))
}

// A loop: of two million letters Uint8Array.from would ask a function each.
function fromBase64(text: string): Uint8Array<ArrayBuffer> {
  const letters = atob(text)
  const bytes = new Uint8Array(letters.length)
  for (let i = 0; i < letters.length; i++) bytes[i] = letters.charCodeAt(i)
  return bytes
}

async function beside(id: string): Promise<Blob> {
  const reply = await fetch(`${id}.packed`)
  if (!reply.ok) throw new Error(`The file ${id}.packed is not beside this page: copy the whole folder.`)
  return reply.blob()
}

export async function told(): Promise<Told> {
  return (await (await block('told')).json()) as Told
}
