import { Signal } from '@sober-prism/engine'
import type { PointerEvent } from 'react'
import { xToHz } from './ruler'

/** The plumb line: the one frequency that every picture reads, or none. */
export const plumb = new Signal<number | null>(null)

/** Handlers for a surface on the ruler: pointing at it moves the plumb line. */
export const plumbHandlers = {
  onPointerMove(event: PointerEvent<HTMLElement>) {
    const box = event.currentTarget.getBoundingClientRect()
    plumb.set(xToHz(event.clientX - box.left, box.width))
  },
  onPointerLeave() {
    plumb.set(null)
  },
}

/** A frequency that was left as a mark, to compare what the plumb line reads with; or none. */
export const plumbMark = new Signal<number | null>(null)

/** Leaves a mark where the plumb line stands; takes it away where it stands there already. */
export function leaveMark(): void {
  plumbMark.set(plumb.value === plumbMark.value ? null : plumb.value)
}
