import type { ReactNode } from 'react'

const mark = (shape: ReactNode) => (
  <svg viewBox="0 0 16 16" width="16" height="16" aria-hidden="true" fill="none">
    {shape}
  </svg>
)
const frame = <path d="M1.5 1.5h13v13h-13z" stroke="currentColor" />
const ring = <path d="M8 1.5L14.5 8L8 14.5L1.5 8Z" stroke="currentColor" />

/** A box that is not ticked, and one that is: drawn like the boxes on a form. */
export const OpenMark = mark(frame)
export const CheckedMark = mark(
  <>
    {frame}
    <path d="M4 8.5l3 3l5.5 -7" stroke="currentColor" strokeWidth="1.8" />
  </>,
)
/** One of several: a lozenge, filled where it is the one. */
export const RadioOpenMark = mark(ring)
export const RadioMark = mark(
  <>
    {ring}
    <path d="M8 4.5L11.5 8L8 11.5L4.5 8Z" fill="currentColor" />
  </>,
)
