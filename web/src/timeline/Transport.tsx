import clsx from 'clsx'
import { Ellipsis, Pause, Play, Repeat, Rewind } from 'lucide-react'
import { useShallow } from 'zustand/react/shallow'
import { useSession } from '../session/session'
import { addMarker } from '../session/steps'
import { useTransport } from '../session/transport'
import { IconButton, Menu, Select, Tip } from '../ui/controls'
import { loopSelection, useTimelineView, zoomToAll, zoomToSelection } from './view'

const speeds = [0.25, 0.5, 1, 2, 4].map((v) => ({
  value: String(v),
  text: `${v === 0.25 ? '¼' : v === 0.5 ? '½' : v}×`,
}))

export function Transport({ width }: { width: number }) {
  const { playing, backwards, loop, span, speed, toggle, setLoop, setSpan, setSpeed } = useTransport(
    useShallow(({ playing, backwards, loop, span, speed, toggle, setLoop, setSpan, setSpeed }) => ({
      playing,
      backwards,
      loop,
      span,
      speed,
      toggle,
      setLoop,
      setSpan,
      setSpeed,
    })),
  )
  const { order, folded } = useTimelineView(useShallow(({ order, folded }) => ({ order, folded })))
  return (
    <div
      className="sticky left-0 z-30 flex shrink-0 items-center gap-0.5 border-r border-line bg-sheet pr-1.5 pl-[14px]"
      style={{ width }}
    >
      <Tip text={playing ? 'Stop' : 'Play'} keys="Space">
        <button
          type="button"
          aria-label={playing ? 'Stop' : 'Play'}
          onClick={() => toggle(playing ? backwards : false)}
          className="grid size-8 shrink-0 place-items-center rounded-full bg-ink text-sheet hover:bg-ink-2"
        >
          {playing ? (
            <Pause size={15} fill="currentColor" />
          ) : (
            <Play size={15} fill="currentColor" className="ml-0.5" />
          )}
        </button>
      </Tip>
      <Timecode />
      <div className="grow" />
      <IconButton label="Play backwards" keys="Shift Space" className="!w-6" onClick={() => toggle(true)}>
        <Rewind size={14} />
      </IconButton>
      <IconButton
        label={loop ? (span ? 'Loops a span; stop looping' : 'Stop looping') : 'Loop'}
        aria-pressed={loop}
        onClick={() => {
          setLoop(!loop)
          if (loop) setSpan(null)
        }}
        className={clsx('!w-6', loop && 'bg-ink text-sheet hover:bg-ink hover:text-sheet')}
      >
        <Repeat size={14} />
      </IconButton>
      <Select
        label="Speed"
        value={String(speed)}
        onChange={(v) => setSpeed(Number(v))}
        options={speeds}
        className="mono !h-6 border-transparent bg-transparent !px-1 text-[11.5px]"
      />
      <Menu
        label="The timeline"
        actions={[
          { text: 'Zoom to all', keys: 'Q', run: zoomToAll },
          { text: 'Zoom to the selection', keys: 'Shift Q', run: zoomToSelection },
          { text: 'Loop the selection', keys: 'Shift L', run: loopSelection },
          { text: 'Set a marker', keys: 'J', run: addMarker },
          {
            text: order === 'time' ? 'Lanes as in the tree' : 'Lanes by time',
            run: () => useTimelineView.setState({ order: order === 'time' ? 'tree' : 'time' }),
          },
          {
            text: 'Unfold all lanes',
            disabled: folded.size === 0,
            run: () => useTimelineView.setState({ folded: new Set() }),
          },
        ]}
      >
        <button
          type="button"
          aria-label="More for the timeline"
          title="More for the timeline"
          className="grid h-7 w-5 place-items-center rounded-md text-ink-2 hover:bg-hair hover:text-ink"
        >
          <Ellipsis size={14} />
        </button>
      </Menu>
    </div>
  )
}

function Timecode() {
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const time = useTransport((s) => s.time)
  const [code, frame] = core && doc ? core.ask('timecode', { time }).split(' ') : ['', '']
  return (
    <div className="ml-1.5 leading-none" data-time={time}>
      <div className="mono text-[16px] font-medium">{code}</div>
      <div className="mono mt-0.5 text-[10.5px] text-ink-2">frame {frame}</div>
    </div>
  )
}
