import { useEffect, useState } from 'react'

/** useSettled is a value that has not changed for so long. */
export function useSettled<T>(value: T, ms: number): T {
  const [last, setLast] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setLast(value), ms)
    return () => clearTimeout(timer)
  }, [value, ms])
  return last
}
