import { Signal } from '@sober-prism/engine'
import { useSyncExternalStore } from 'react'

/** The one frequency axis: every picture of a screen stands on it, aligned to the pixel. */
export const LOWEST_HZ = 20
export const HIGHEST_HZ = 20000

/** The part of the axis that is looked at: on all pictures the same. */
export interface RulerSpan {
  readonly lowHz: number
  readonly highHz: number
}

export const WHOLE_RULER: RulerSpan = { lowHz: LOWEST_HZ, highHz: HIGHEST_HZ }
export const rulerSpan = new Signal<RulerSpan>(WHOLE_RULER)

/** The part that is looked at, for what is laid out by React. */
export function useRulerSpan(): RulerSpan {
  return useSyncExternalStore(rulerSpan.watch, rulerSpan.read)
}

/** Whether a frequency is looked at; on the whole ruler, those beside it are too, at its ends. */
export function isLookedAt(hz: number, span: RulerSpan = rulerSpan.value): boolean {
  return span === WHOLE_RULER || (hz >= span.lowHz && hz <= span.highHz)
}

/** The narrowest part, in octaves. */
const NARROWEST_OCTAVES = 1 / 3

/** A part that is wider (`ratio` over 1) or narrower; what stands at `aboutHz` stays there, by default the middle. */
export function zoomedSpan(
  { lowHz, highHz }: RulerSpan,
  ratio: number,
  aboutHz = Math.sqrt(lowHz * highHz),
): RulerSpan {
  const octaves = Math.log2(highHz / lowHz)
  const wide = Math.max(NARROWEST_OCTAVES, Math.min(WHOLE_OCTAVES, octaves * ratio))
  const share = Math.log2(aboutHz / lowHz) / octaves
  return spanFrom(Math.log2(aboutHz) - share * wide, wide)
}

/** The same width, so many octaves higher, as far as the axis goes. */
export function movedSpan({ lowHz, highHz }: RulerSpan, byOctaves: number): RulerSpan {
  return spanFrom(Math.log2(lowHz) + byOctaves, Math.log2(highHz / lowHz))
}

const WHOLE_OCTAVES = Math.log2(HIGHEST_HZ / LOWEST_HZ)

function spanFrom(lowOctave: number, octaves: number): RulerSpan {
  const least = Math.log2(LOWEST_HZ)
  // The whole is told from a part of it.
  if (octaves > WHOLE_OCTAVES - 1e-6) return WHOLE_RULER
  const low = Math.max(least, Math.min(least + WHOLE_OCTAVES - octaves, lowOctave))
  return { lowHz: 2 ** low, highHz: 2 ** (low + octaves) }
}

/** Space left of the lowest frequency on every plot, for meters and level labels; and right of the highest. */
export const PLOT_LEFT = 10
export const PLOT_RIGHT = 12

/** Where a frequency stands on a plot `width` pixels wide: beside it where it is not looked at. */
export function hzToX(hz: number, width: number, span: RulerSpan = rulerSpan.value): number {
  const share = Math.log(hz / span.lowHz) / Math.log(span.highHz / span.lowHz)
  return PLOT_LEFT + share * (width - PLOT_LEFT - PLOT_RIGHT)
}

/** The frequency at a place on a plot, held within what is looked at. */
export function xToHz(x: number, width: number, span: RulerSpan = rulerSpan.value): number {
  const share = (x - PLOT_LEFT) / (width - PLOT_LEFT - PLOT_RIGHT)
  return span.lowHz * (span.highHz / span.lowHz) ** Math.max(0, Math.min(1, share))
}

/** Which figures stand first where there is no room for all. */
const FIRST_HZ = [LOWEST_HZ, HIGHEST_HZ, 1000, 100, 10_000, 200, 5000, 500, 2000, 50]
const FIGURE_GAP = 6
/** Steps within a decade, in tenths, that get figures too where fewer octaves than this are looked at. */
const FINER = [
  [5, 10],
  [2, 5],
  [1, 1],
] as const

/** Round frequencies that get a figure, those first that are to have one before others. */
function figuredHz({ lowHz, highHz }: RulerSpan): number[] {
  const octaves = Math.log2(highHz / lowHz)
  const finer = FINER.flatMap(([most, tenths]) => (octaves < most ? roundHz(tenths) : []))
  return [...new Set([...FIRST_HZ, ...finer])].filter((hz) => hz >= lowHz && hz <= highHz)
}

/** Multiples of so many tenths of each decade's power of ten. */
function roundHz(tenths: number): number[] {
  return [10, 100, 1000, 10_000]
    .flatMap((decade) =>
      Array.from({ length: 90 / tenths }, (_, i) => ((10 + (i + 1) * tenths) * decade) / 10),
    )
    .filter((hz) => hz >= LOWEST_HZ && hz <= HIGHEST_HZ)
}

const figureOf = (hz: number) => (hz >= 1000 ? `${hz / 1000}k` : `${hz}`)

/** Figures that have room beside each other on a ruler of a width, with where they stand. */
export function figuresIn(
  width: number,
  widthOf: (text: string) => number,
  span: RulerSpan = rulerSpan.value,
  /** Room at the right that something else takes. */
  takenRight = 0,
): {
  readonly hz: number
  readonly text: string
  readonly x: number
  readonly align: 'left' | 'center' | 'right'
}[] {
  const taken: (readonly [number, number])[] =
    takenRight > 0 ? [[width - PLOT_RIGHT - takenRight, width]] : []
  return figuredHz(span).flatMap((hz) => {
    const text = figureOf(hz)
    const wide = widthOf(text)
    const x = hzToX(hz, width, span)
    // Those at the ends stay inside.
    const align =
      x - wide / 2 < PLOT_LEFT ? 'left' : x + wide / 2 > width - PLOT_RIGHT ? 'right' : 'center'
    const from = align === 'left' ? x : align === 'right' ? x - wide : x - wide / 2
    const to = from + wide
    const isTaken = ([a, b]: readonly [number, number]) =>
      from < b + FIGURE_GAP && to > a - FIGURE_GAP
    if (taken.some(isTaken)) return []
    taken.push([from, to])
    return [{ hz, text, x, align }]
  })
}

/** Frequencies with a tick: the decades' multiples, finer ones where little is looked at. */
export function ticksIn({ lowHz, highHz }: RulerSpan): number[] {
  const octaves = Math.log2(highHz / lowHz)
  const hz = roundHz(octaves < 2 ? 1 : octaves < 4 ? 5 : 10)
  return [LOWEST_HZ, ...hz].filter((f, i, all) => f >= lowHz && f <= highHz && all.indexOf(f) === i)
}

/** The prism: hue by place on the ruler, 0 to 1. The only hue in the app besides its two accents. */
export function prismColour(share: number, night: boolean): string {
  const hue = share * 285
  return `hsl(${hue.toFixed(0)} ${night ? '42% 58%' : '46% 45%'})`
}
