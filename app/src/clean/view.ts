import { movedSpan, zoomedSpan } from '../plot/ruler'
import { type SpectrogramView, WHOLE_VIEW } from './clean-slice'

type Axis = 'time' | 'frequency'

/** The shortest stretch: a thousandth of the passage. */
const SHORTEST = 0.001
/** An arrow key goes this part of what is looked at. */
const SCROLL_SHARE = 0.2
/** It moves a region by this part of its own size; with Shift it makes it larger or smaller instead. */
const MOVE_SHARE = 0.25

/** Zooms about a place: a share of the passage, or a frequency; by default about the middle. */
export function zoomed(
  view: SpectrogramView,
  axis: Axis,
  ratio: number,
  about?: number,
): SpectrogramView {
  if (axis === 'frequency') return { ...view, ...zoomedSpan(view, ratio, about) }
  const { from: low, to: high } = view
  const at = about ?? (low + high) / 2
  const width = Math.max(SHORTEST, Math.min(1, (high - low) * ratio))
  const from = at - ((at - low) / (high - low)) * width
  return withSpan(view, axis, held(from, width, 0, 1))
}

/** Scrolls by a part of what is looked at. */
export function scrolled(view: SpectrogramView, axis: Axis, direction: 1 | -1): SpectrogramView {
  const [low, high] = spanOf(view, axis)
  const by = direction * SCROLL_SHARE * (high - low)
  if (axis === 'frequency') return { ...view, ...movedSpan(view, by) }
  return withSpan(view, axis, held(low + by, high - low, 0, 1))
}

/** Moves a region, or with `resize` its far edge. */
export function moved(
  region: SpectrogramView,
  axis: Axis,
  direction: 1 | -1,
  resize: boolean,
): SpectrogramView {
  const [low, high] = spanOf(region, axis)
  const [least, most] = spanOf(WHOLE_VIEW, axis)
  const by = direction * MOVE_SHARE * (high - low)
  if (resize) return withSpan(region, axis, [low, Math.min(most, high + by)])
  return withSpan(region, axis, held(low + by, high - low, least, most))
}

function held(from: number, width: number, least: number, most: number): [number, number] {
  const start = Math.max(least, Math.min(most - width, from))
  return [start, start + width]
}

/** Along time as shares of the passage, along frequency as octaves. */
function spanOf({ from, to, lowHz, highHz }: SpectrogramView, axis: Axis): [number, number] {
  return axis === 'time' ? [from, to] : [Math.log2(lowHz), Math.log2(highHz)]
}

function withSpan(view: SpectrogramView, axis: Axis, [a, b]: [number, number]): SpectrogramView {
  if (axis === 'time') return { ...view, from: a, to: b }
  const [least, most] = spanOf(WHOLE_VIEW, 'frequency')
  // The ends are exact, so that the whole range is told from a part of it.
  const isNear = (x: number, y: number) => Math.abs(x - y) < 1e-9
  return {
    ...view,
    lowHz: isNear(a, least) ? WHOLE_VIEW.lowHz : 2 ** a,
    highHz: isNear(b, most) ? WHOLE_VIEW.highHz : 2 ** b,
  }
}
