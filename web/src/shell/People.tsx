import { UserRound } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useEffect, useState } from 'react'
import { myName, setMyName } from '../session/me'
import { announce, usePresence } from '../session/presence'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Button, Tip } from '../ui/controls'
import { seconds } from '../core/written'

const initials = (name: string) =>
  name
    .split(/\s+/)
    .map((w) => w[0] ?? '')
    .join('')
    .slice(0, 2)
    .toUpperCase() || '?'

// The letters are a picture of the name, which is said beside them: they are no text.
const Disc = ({ name, me }: { name: string; me?: boolean }) => (
  <span
    aria-hidden
    data-letters={initials(name)}
    className={`grid size-7 before:content-[attr(data-letters)] place-items-center rounded-full border text-[11px] font-semibold ${me ? 'border-line bg-sheet text-ink-2' : 'border-advice bg-advice-soft text-advice'}`}
  />
)

// People shows who else is in this reveal and where, and what one calls oneself.
export function People() {
  const reveal = useSession((s) => s.revealId)
  const news = useSession((s) => s.news)
  const others = usePresence((s) => s.others).filter((o) => o.reveal === reveal)
  const [name, setName] = useState(myName())
  useEffect(() => (reveal ? announce(reveal) : undefined), [reveal])
  useEffect(() => {
    if (!news) return
    const t = setTimeout(() => useSession.setState({ news: null }), 6000)
    return () => clearTimeout(t)
  }, [news])
  return (
    <>
      {news && (
        <span role="status" title={news} className="max-w-[180px] truncate text-[12px] text-advice">
          {news}
        </span>
      )}
      {others.map((o) => (
        <Tip key={o.page} text={`${o.name} is at ${seconds(o.time, 1)}${o.selected ? `, ${o.selected}` : ''}`}>
          <button
            type="button"
            aria-label={`${o.name} is at ${seconds(o.time, 1)}; go there`}
            onClick={() => useTransport.getState().seek(o.time)}
          >
            <Disc name={o.name} />
          </button>
        </Tip>
      ))}
      <Popover.Root>
        <Popover.Trigger asChild>
          <button
            type="button"
            title={name ? `You are ${name}` : 'Say who you are'}
            aria-label={name ? `You are ${name}` : 'Say who you are'}
          >
            {name ? (
              <Disc name={name} me />
            ) : (
              <span className="grid size-7 place-items-center rounded-full border border-line bg-sheet text-ink-2">
                <UserRound size={14} />
              </span>
            )}
          </button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            aria-label="Who you are"
            sideOffset={6}
            align="end"
            className="z-50 w-64 rounded-md border border-line bg-white p-3 shadow-xl"
          >
            <label className="block text-[12.5px] text-ink-2" htmlFor="my-name">
              Your name, for others in this reveal
            </label>
            <input
              id="my-name"
              value={name}
              maxLength={60}
              onChange={(e) => setName(e.target.value)}
              onBlur={() => setMyName(name)}
              onKeyDown={(e) => e.stopPropagation()}
              className="mt-1 h-8 w-full rounded-md border border-line px-2"
            />
            <Popover.Close asChild>
              <Button className="mt-2" onClick={() => setMyName(name)}>
                Done
              </Button>
            </Popover.Close>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </>
  )
}
