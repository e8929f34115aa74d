import { type RefObject, useLayoutEffect, useRef, useState } from 'react'

/** The size of an element in CSS pixels, kept up to date. */
export function useSize<E extends HTMLElement>(): [
  RefObject<E | null>,
  { width: number; height: number },
] {
  const ref = useRef<E>(null)
  const [size, setSize] = useState({ width: 0, height: 0 })
  useLayoutEffect(() => {
    const element = ref.current
    if (!element) return
    const measure = () => setSize({ width: element.clientWidth, height: element.clientHeight })
    measure()
    const observer = new ResizeObserver(measure)
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  return [ref, size]
}
