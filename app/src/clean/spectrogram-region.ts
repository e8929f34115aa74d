import { newBand, seriesHz, withNeedles } from '@sober-prism/core/filters'
import { chainOf, type Edit, type Session } from '@sober-prism/core/session'
import { MOST_POINTS, newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { formatHz, formatTime } from '../format'
import type { SpectrogramView } from './clean-slice'
import { COLUMNS, ROWS } from './draw-spectrogram'
import type { SpectrogramReading } from './use-spectrogram'

/** What a region of a picture over time holds. */
export interface RegionReading {
  /** The loudest place in it. */
  readonly hz: number
  readonly db: number
  /** Mean level of its cells, in dB. */
  readonly meanDb: number
}

/** Measures the cells of a picture that lie in a region; null where none does. */
export function readRegion(
  { levels, edgesHz, view }: SpectrogramReading,
  region: SpectrogramView,
): RegionReading | null {
  const rowOf = (share: number) => ((share - view.from) / (view.to - view.from)) * ROWS
  const [top, bottom] = [
    Math.max(0, Math.floor(rowOf(region.from))),
    Math.min(ROWS, Math.ceil(rowOf(region.to))),
  ]
  let best = { hz: 0, db: Number.NEGATIVE_INFINITY }
  let [sum, count] = [0, 0]
  for (let c = 0; c < COLUMNS; c++) {
    if (edgesHz[c + 1] < region.lowHz || edgesHz[c] > region.highHz) continue
    for (let r = top; r < bottom; r++) {
      const db = levels[r * COLUMNS + c]
      sum += 10 ** (db / 10)
      count++
      if (db > best.db) best = { hz: Math.sqrt(edgesHz[c] * edgesHz[c + 1]), db }
    }
  }
  return count === 0 ? null : { ...best, meanDb: 10 * Math.log10(sum / count) }
}

/** What becomes of a region on the sheet. */
export type RegionUse = 'bell' | 'needle' | 'series'

const FIRST_CUT_DB = -6
const NEEDLE_HZ = 24
const HARMONICS = 32
const HIGHEST_HZ = 20_000

/** The edits that answer a region; null where a curve would hold too many points. */
export function regionUseEdits(
  session: Session,
  node: string,
  use: RegionUse,
  { lowHz, highHz }: SpectrogramView,
  { hz }: RegionReading,
): { edits: Edit[]; id: string } | null {
  const place = Number(hz.toPrecision(4))
  const id = crypto.randomUUID()
  if (use === 'bell') {
    const q = Math.max(0.3, Math.min(40, hz / (highHz - lowHz)))
    const band = { ...newBand('bell', place), db: FIRST_CUT_DB, q: Number(q.toPrecision(3)) }
    const chainBand = { ...newChainBand(id, band), reason: `Seen at ${formatHz(hz)} over time` }
    const newTreatment = crypto.randomUUID()
    return {
      id,
      edits: [{ kind: 'add-band', node, stage: 'clean', treatment: null, newTreatment, chainBand }],
    }
  }
  const count = use === 'series' ? HARMONICS : 1
  const needles = seriesHz({ hz: place, count, stretch: 0 }, HIGHEST_HZ)
  const drawn = (chainOf(session, node)?.treatments ?? []).findLast(
    (t) => t.kind === 'drawn-curve' && t.stage === 'clean',
  )
  if (drawn?.kind === 'drawn-curve') {
    const points = withNeedles(drawn.params, needles, NEEDLE_HZ)
    if (points.length > MOST_POINTS) return null
    const change = { params: { ...drawn.params, points } }
    return { id: drawn.id, edits: [{ kind: 'set-treatment', node, treatment: drawn.id, change }] }
  }
  const { params } = newTreatment('drawn-curve', id, 'clean')
  const flat = { ...params, points: [20, HIGHEST_HZ].map((f) => ({ hz: f, db: 0 })) }
  const treatment = newTreatment('drawn-curve', id, 'clean', {
    ...flat,
    joining: 'straight',
    taps: NEEDLE_TAPS,
    points: withNeedles({ ...flat, joining: 'straight' }, needles, NEEDLE_HZ),
  })
  const what = use === 'series' ? `${needles.length} harmonics of ${formatHz(hz)}` : formatHz(hz)
  const reason = `Notches on ${what}, seen over time`
  return {
    id,
    edits: [{ kind: 'add-treatment', node, treatment: { ...treatment, reason }, before: null }],
  }
}

/** Needles of this length leave alone what is 30 Hz away. */
const NEEDLE_TAPS = 32_768

/** A region in words. */
export function regionText(
  region: SpectrogramView,
  passage: { fromFrame: number; toFrame: number },
  rateHz: number,
): string {
  const length = passage.toFrame - passage.fromFrame
  const at = (share: number) => formatTime((passage.fromFrame + share * length) / rateHz)
  return `${at(region.from)} to ${at(region.to)}, ${formatHz(region.lowHz)} to ${formatHz(region.highHz)}`
}
