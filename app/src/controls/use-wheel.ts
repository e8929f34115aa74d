import { useEffect, useRef } from 'react'

/** Turns the wheel over an input that has the focus into steps; over another one it scrolls as ever. */
export function useWheel(onStep: (direction: 1 | -1, fine: boolean) => void) {
  const input = useRef<HTMLInputElement>(null)
  const step = useRef(onStep)
  step.current = onStep
  useEffect(() => {
    const element = input.current
    // A slider's input is small and lies on its thumb: the wheel counts on all of the slider.
    const field = element?.closest<HTMLElement>('.MuiSlider-root') ?? element
    const onWheel = (event: WheelEvent) => {
      const delta = event.deltaY || event.deltaX
      if (document.activeElement !== element || delta === 0) return
      event.preventDefault()
      step.current(delta < 0 ? 1 : -1, event.shiftKey)
    }
    // A listener of React's own would be passive, and the page would scroll besides.
    field?.addEventListener('wheel', onWheel, { passive: false })
    return () => field?.removeEventListener('wheel', onWheel)
  }, [])
  return input
}
