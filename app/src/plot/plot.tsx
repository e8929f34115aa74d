import type { Signal } from '@sober-prism/engine'
import { type HTMLAttributes, useEffect, useRef } from 'react'
import { useAppSelector } from '../store/store'
import { SHEETS, type Sheet } from './inks'
import { rulerSpan } from './ruler'

/** What a drawing gets: a cleared context in CSS pixels. */
export interface Surface {
  readonly context: CanvasRenderingContext2D
  readonly width: number
  readonly height: number
  readonly sheet: Sheet
  readonly night: boolean
}

interface PlotProps extends HTMLAttributes<HTMLDivElement> {
  /** Draws the whole picture; a new function means a new picture. Must not depend on React while drawing. */
  readonly draw: (surface: Surface) => void
  /** Redraw when any of these changes. The list itself must stay the same. */
  readonly signals?: readonly Signal<unknown>[]
  readonly label?: string
}

/** A canvas drawn outside React's render: at most once per frame, sharp on every screen. */
export function Plot({ draw, signals, label, children, ...rest }: PlotProps) {
  const canvasRef = useRef<HTMLCanvasElement>(null)
  const sheetName = useAppSelector((root) => root.interface.sheet)

  // As the browser tells it: asking for it would lay the page out once for every picture.
  const size = useRef({ width: 0, height: 0 })
  const repaint = useRef(() => {})

  useEffect(() => {
    const canvas = canvasRef.current
    if (!canvas) return
    const observer = new ResizeObserver(([{ contentRect }]) => {
      const { width, height } = contentRect
      size.current = { width: Math.round(width), height: Math.round(height) }
      repaint.current()
    })
    observer.observe(canvas)
    return () => observer.disconnect()
  }, [])

  useEffect(() => {
    const canvas = canvasRef.current
    const context = canvas?.getContext('2d')
    if (!canvas || !context) return
    let frame = 0
    const paint = () => {
      frame = 0
      const { width, height } = size.current
      if (width === 0 || height === 0) return
      const ratio = window.devicePixelRatio || 1
      const pixelWidth = Math.round(width * ratio)
      const pixelHeight = Math.round(height * ratio)
      if (canvas.width !== pixelWidth || canvas.height !== pixelHeight) {
        canvas.width = pixelWidth
        canvas.height = pixelHeight
      }
      context.setTransform(ratio, 0, 0, ratio, 0, 0)
      context.clearRect(0, 0, width, height)
      draw({ context, width, height, sheet: SHEETS[sheetName], night: sheetName === 'night' })
    }
    const request = () => {
      frame ||= requestAnimationFrame(paint)
    }
    repaint.current = request
    request()
    // Every picture stands on the ruler.
    const unwatch = [rulerSpan, ...(signals ?? [])].map((signal) => signal.watch(request))
    return () => {
      cancelAnimationFrame(frame)
      repaint.current = () => {}
      for (const stop of unwatch) stop()
    }
  }, [draw, signals, sheetName])

  return (
    <div {...rest} className={`plot ${rest.className ?? ''}`}>
      <canvas
        ref={canvasRef}
        role={label === undefined ? 'presentation' : 'img'}
        aria-label={label}
      />
      {children}
    </div>
  )
}
