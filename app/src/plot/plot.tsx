import type { Signal } from '@sober-prism/engine'
import { type HTMLAttributes, useEffect, useRef } from 'react'
import { useAppSelector } from '../store/store'
import { SHEETS, type Sheet } from './inks'

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

  useEffect(() => {
    const canvas = canvasRef.current
    const context = canvas?.getContext('2d')
    if (!canvas || !context) return
    let frame = 0
    const paint = () => {
      frame = 0
      const { clientWidth: width, clientHeight: height } = canvas
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
    request()
    const observer = new ResizeObserver(request)
    observer.observe(canvas)
    const unwatch = (signals ?? []).map((signal) => signal.watch(request))
    return () => {
      cancelAnimationFrame(frame)
      observer.disconnect()
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
