import { useEffect, useRef, useState } from 'react'

/** A value that follows another at most every so often, and always arrives at it. */
export function useThrottled<T>(value: T, everyMs: number): T {
  const [shown, setShown] = useState(value)
  const last = useRef(0)
  useEffect(() => {
    const wait = last.current + everyMs - performance.now()
    const show = () => {
      last.current = performance.now()
      setShown(value)
    }
    if (wait <= 0) return show()
    const timer = setTimeout(show, wait)
    return () => clearTimeout(timer)
  }, [value, everyMs])
  return shown
}
