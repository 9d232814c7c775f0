// Requests that change something carry a key, and are sent again with the same key when no answer
// comes: the server carries them out once.

import { useLine } from './line'

/** How long after the first, second … try the next one comes, in ms. */
export const pauses = [400, 1200, 3000]

export const sleep = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/** Whether an answer says that asking again may help. */
export const passing = (status: number) => status === 502 || status === 503 || status === 504

/** wait is what the server asks for, in ms, but not for ever. */
function wait(reply: Response | null, usual: number): number {
  const asked = Number(reply?.headers.get('Retry-After') ?? 0) * 1000
  return Math.min(Math.max(asked, usual), 5000)
}

/** again sends until there is an answer, or until it has tried often enough. */
async function again(send: () => Promise<Response>): Promise<Response> {
  const { getState, setState } = useLine
  let counted = false
  const count = (waits: boolean) => {
    if (waits !== counted) setState({ again: getState().again + (waits ? 1 : -1) })
    counted = waits
  }
  try {
    return await tries(send, () => count(true))
  } finally {
    count(false)
  }
}

async function tries(send: () => Promise<Response>, waiting: () => void): Promise<Response> {
  for (let n = 0; ; n++) {
    let reply: Response | null = null
    let failure: unknown = null
    try {
      reply = await send()
      if (!passing(reply.status)) return reply
    } catch (e) {
      failure = e
    }
    if (n >= pauses.length) {
      if (reply) return reply
      throw failure
    }
    waiting()
    await sleep(wait(reply, pauses[n]!))
  }
}

const header = 'Idempotency-Key'

/** patiently fetches; what changes something is asked again when no answer comes. */
export async function patiently(request: Request): Promise<Response> {
  if (request.method === 'GET' || request.method === 'HEAD' || request.keepalive) return fetch(request)
  if (!request.headers.has(header)) request.headers.set(header, crypto.randomUUID())
  return again(() => fetch(request.clone()))
}

/** upload sends a form with files; it is put together for each try, so that no copy of them is kept. */
export async function upload(address: string, form: () => FormData): Promise<Response> {
  const key = crypto.randomUUID()
  return again(() => fetch(address, { method: 'POST', body: form(), headers: { [header]: key } }))
}
