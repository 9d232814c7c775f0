import clsx from 'clsx'
import { Tooltip as T, ToggleGroup, Select as S, DropdownMenu as M, Dialog as D } from 'radix-ui'
import { Check, ChevronDown, X } from 'lucide-react'
import { forwardRef, type ButtonHTMLAttributes, type ReactNode } from 'react'

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & { kind?: 'plain' | 'strong' | 'quiet'; icon?: boolean }

export const Button = forwardRef<HTMLButtonElement, ButtonProps>(function Button(
  { kind = 'plain', icon, className, ...rest },
  ref,
) {
  return (
    <button
      ref={ref}
      type="button"
      className={clsx(
        'inline-flex h-7 items-center justify-center gap-1.5 rounded-md text-[12.5px] leading-none whitespace-nowrap transition-colors disabled:opacity-40 pointer-coarse:h-11',
        icon ? 'w-7 shrink-0 pointer-coarse:w-11' : 'px-2.5',
        kind === 'plain' && 'border border-line bg-sheet hover:bg-white active:bg-sheet-2',
        kind === 'strong' && 'bg-ink text-sheet hover:bg-ink-2 active:bg-black',
        kind === 'quiet' && 'text-ink-2 hover:bg-hair hover:text-ink',
        className,
      )}
      {...rest}
    />
  )
})

export function Tip({ text, keys, children }: { text: string; keys?: string; children: ReactNode }) {
  return (
    <T.Root delayDuration={500}>
      <T.Trigger asChild>{children}</T.Trigger>
      <T.Portal>
        <T.Content
          sideOffset={5}
          collisionPadding={8}
          className="z-50 flex items-center gap-2 rounded-md bg-ink px-2 py-1 text-[12px] text-sheet shadow-lg"
        >
          {text}
          {keys && <kbd className="mono text-[11px] text-line">{keys}</kbd>}
        </T.Content>
      </T.Portal>
    </T.Root>
  )
}

export const IconButton = forwardRef<HTMLButtonElement, ButtonProps & { label: string; keys?: string }>(
  function IconButton({ label, keys, className, ...rest }, ref) {
    return (
      <Tip text={label} keys={keys}>
        <Button ref={ref} kind="quiet" icon aria-label={label} className={className} {...rest} />
      </Tip>
    )
  },
)

// Tick is a box to be ticked.
export function Tick({
  on,
  onChange,
  children,
  disabled,
}: {
  on: boolean
  onChange(on: boolean): void
  children: ReactNode
  disabled?: boolean
}) {
  return (
    <label className={clsx('flex min-h-6 items-center gap-2 text-[12.5px]', disabled && 'text-ink-3')}>
      <input
        type="checkbox"
        className="size-3.5 accent-ink"
        checked={on}
        disabled={disabled}
        onChange={(e) => onChange(e.target.checked)}
      />
      <span>{children}</span>
    </label>
  )
}

// Choice is one of a few, all of them seen at once.
export function Choice<V extends string>({
  value,
  onChange,
  options,
  label,
  className,
}: {
  value: V
  onChange(v: V): void
  options: readonly { value: V; text: string; tip?: string }[]
  label: string
  className?: string
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(v) => v && onChange(v as V)}
      className={clsx('inline-flex h-7 overflow-hidden rounded-md border border-line bg-sheet', className)}
    >
      {options.map((o) => (
        <ToggleGroup.Item
          key={o.value}
          value={o.value}
          title={o.tip}
          className="grow border-l border-hair px-2 text-[12.5px] whitespace-nowrap first:border-l-0 hover:bg-white focus-visible:-outline-offset-2 data-[state=on]:bg-ink data-[state=on]:text-sheet"
        >
          {o.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  )
}

export function Select<V extends string>({
  value,
  onChange,
  options,
  label,
  className,
}: {
  value: V
  onChange(v: V): void
  options: readonly { value: V; text: string }[]
  label: string
  className?: string
}) {
  return (
    <S.Root value={value} onValueChange={(v) => onChange(v as V)}>
      <S.Trigger
        aria-label={label}
        title={label}
        className={clsx(
          'inline-flex h-7 items-center justify-between gap-1 rounded-md border border-line bg-white px-2 text-[12.5px] hover:border-ink-3',
          className,
        )}
      >
        <span className="min-w-0 truncate text-left">
          <S.Value />
        </span>
        <S.Icon className="shrink-0">
          <ChevronDown size={13} />
        </S.Icon>
      </S.Trigger>
      <S.Portal>
        <S.Content
          position="popper"
          sideOffset={3}
          className="z-50 max-h-80 min-w-(--radix-select-trigger-width) overflow-hidden rounded-md border border-line bg-white py-1 shadow-xl"
        >
          <S.Viewport>
            {options.map((o) => (
              <S.Item
                key={o.value}
                value={o.value}
                className="flex cursor-default items-center justify-between gap-4 px-2.5 py-1 text-[12.5px] outline-none data-[highlighted]:bg-sheet-2"
              >
                <S.ItemText>{o.text}</S.ItemText>
                <S.ItemIndicator>
                  <Check size={12} />
                </S.ItemIndicator>
              </S.Item>
            ))}
          </S.Viewport>
        </S.Content>
      </S.Portal>
    </S.Root>
  )
}

export interface Action {
  text: string
  keys?: string
  disabled?: boolean
  run(): void
}

export function Menu({ children, actions, label }: { children: ReactNode; actions: readonly Action[]; label: string }) {
  return (
    <M.Root>
      <M.Trigger asChild>{children}</M.Trigger>
      <M.Portal>
        <M.Content
          aria-label={label}
          align="start"
          sideOffset={4}
          className="scroll z-50 max-h-[60vh] min-w-44 rounded-md border border-line bg-white py-1 shadow-xl"
        >
          {actions.map((a) => (
            <M.Item
              key={a.text}
              disabled={a.disabled}
              onSelect={a.run}
              className="flex cursor-default items-center justify-between gap-6 px-3 py-1.5 text-[12.5px] outline-none data-[disabled]:text-ink-3 data-[highlighted]:bg-sheet-2"
            >
              {a.text}
              {a.keys && <kbd className="mono text-[11px] text-ink-3">{a.keys}</kbd>}
            </M.Item>
          ))}
        </M.Content>
      </M.Portal>
    </M.Root>
  )
}

export function Dialog({
  open,
  onClose,
  title,
  children,
  size = 'usual',
}: {
  open: boolean
  onClose(): void
  title: string
  children: ReactNode
  /** window: as much as there is. */
  size?: 'usual' | 'wide' | 'window'
}) {
  return (
    <D.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <D.Portal>
        <D.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <D.Content
          aria-describedby={undefined}
          className={clsx(
            'fixed left-1/2 z-50 flex -translate-x-1/2 flex-col rounded-lg border border-line bg-sheet shadow-2xl',
            size === 'window' ? 'top-[3vh] max-h-[94vh]' : 'top-[12vh] max-h-[76vh]',
            { usual: 'w-[460px]', wide: 'w-[680px]', window: 'w-[94vw]' }[size],
          )}
        >
          <div className="flex items-center justify-between px-5 pt-4 pb-2">
            <D.Title className="text-[16px] font-semibold">{title}</D.Title>
            <D.Close asChild>
              <Button kind="quiet" icon aria-label="Close" title="Close">
                <X size={15} />
              </Button>
            </D.Close>
          </div>
          <div tabIndex={0} className="scroll min-h-0 px-5 pt-1 pb-5 focus-visible:-outline-offset-2">
            {children}
          </div>
        </D.Content>
      </D.Portal>
    </D.Root>
  )
}
