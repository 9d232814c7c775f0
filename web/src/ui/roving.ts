// One tab stop for things that belong together; arrows, Home, End and letters go from one to the next.

let typed = { text: '', at: 0 }

// typeAhead is which of some names is meant by a letter that follows those that were typed just before: the next one that begins so,
// from one on; −1 for none, or where no letter was typed.
export function typeAhead(e: React.KeyboardEvent, names: readonly string[], from: number): number {
  if (e.key.length !== 1 || e.key === ' ' || e.ctrlKey || e.metaKey || e.altKey) return -1
  typed = {
    text: e.timeStamp - typed.at < 700 ? typed.text + e.key.toLowerCase() : e.key.toLowerCase(),
    at: e.timeStamp,
  }
  for (let k = typed.text.length > 1 ? 0 : 1; k <= names.length; k++) {
    const i = (from + k) % names.length
    if (names[i]!.toLowerCase().startsWith(typed.text)) return i
  }
  return -1
}

// nextOf is where an arrow, Home or End leads to from one of so many; −1 where the key is another one.
export function nextOf(e: React.KeyboardEvent, at: number, count: number, back: string, on: string): number {
  switch (e.key) {
    case back:
      return Math.max(at - 1, 0)
    case on:
      return Math.min(at + 1, count - 1)
    case 'Home':
      return 0
    case 'End':
      return count - 1
  }
  return -1
}
