import clsx from 'clsx'
import { useEffect, useRef, useState } from 'react'
import { Prose } from '../ui/Prose'
import { useWriting } from '../session/writing'

// Words are text that is edited where it stands and never looks like a form.
export function Words({
  value,
  onChange,
  label,
  placeholder,
  multiline,
  prose,
  className,
}: {
  value: string
  onChange(v: string): boolean
  label: string
  placeholder?: string
  multiline?: boolean
  prose?: boolean
  className?: string
}) {
  const { text, write, forget, done } = useWriting(value, label, onChange)
  const [editing, setEditing] = useState(false)
  const area = useRef<HTMLTextAreaElement>(null)
  useEffect(() => {
    const a = area.current
    if (!a) return
    a.style.height = '0'
    a.style.height = `${a.scrollHeight}px`
  }, [text, placeholder, editing])
  const take = () => {
    setEditing(false)
    done()
  }
  if (!text && !placeholder && multiline && !editing) return null
  // At rest it reads; with the focus it is written.
  if (prose && text && !editing) {
    return (
      <div
        role="textbox"
        aria-multiline
        tabIndex={0}
        aria-label={label}
        onFocus={() => setEditing(true)}
        onClick={() => setEditing(true)}
        className={clsx('min-h-6 cursor-text', className)}
      >
        <Prose text={text} />
      </div>
    )
  }
  return (
    <textarea
      ref={area}
      rows={1}
      autoFocus={editing}
      onFocus={() => setEditing(true)}
      value={text}
      aria-label={label}
      placeholder={placeholder}
      spellCheck
      onChange={(e) => write(multiline ? e.target.value : e.target.value.replace(/\n/g, ' '))}
      onBlur={take}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter' && (!multiline || e.ctrlKey)) {
          e.preventDefault()
          e.currentTarget.blur()
        }
        if (e.key === 'Escape') {
          forget()
          requestAnimationFrame(() => area.current?.blur())
        }
      }}
      className={clsx(
        'block min-h-6 w-full resize-none overflow-hidden rounded-[2px] bg-transparent p-0 placeholder:text-ink-3 focus:bg-sheet-2 focus-visible:outline-1 focus-visible:outline-offset-2',
        className,
      )}
    />
  )
}
