// Who sits at this page. There are no accounts: a name is what one calls oneself.
import { api } from '../api/client'

const key = 'slowreveal.name'

export const page = crypto.randomUUID().slice(0, 12)

// myCode tells what is done in this browser from what others do, also of those who have no name.
const myCode = globalThis.localStorage?.getItem('slowreveal.person') ?? crypto.randomUUID()
globalThis.localStorage?.setItem('slowreveal.person', myCode)

export function myName(): string {
  return globalThis.localStorage?.getItem(key) ?? ''
}

export function setMyName(name: string) {
  localStorage.setItem(key, name.trim().slice(0, 60))
}

api.use({
  onRequest({ request }) {
    const name = myName()
    if (name) request.headers.set('X-Author', encodeURIComponent(name))
    request.headers.set('X-Person', myCode)
    return request
  },
})
