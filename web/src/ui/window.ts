import { useEffect, useState } from 'react'

/** The window's size in CSS pixels: zoom makes it smaller. */
export function useWindowSize() {
  const [size, setSize] = useState({ width: window.innerWidth, height: window.innerHeight })
  useEffect(() => {
    const look = () => setSize({ width: window.innerWidth, height: window.innerHeight })
    window.addEventListener('resize', look)
    return () => window.removeEventListener('resize', look)
  }, [])
  return size
}
