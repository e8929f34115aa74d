import { magnitudeDb } from '@sober-prism/core/filters'
import { erbNumberToHz, hzToErbNumber } from '@sober-prism/core/spectrum'
import {
  DUCK_WIDTHS,
  type FollowBand,
  followFilters,
  type Treatment,
} from '@sober-prism/core/treatments'
import { useCallback, useEffect, useMemo, useRef } from 'react'
import { Plot, type Surface } from '../../plot/plot'
import { PLOT_LEFT, PLOT_RIGHT } from '../../plot/ruler'
import { useDesk } from '../../shell/desk-context'
import { useRouting } from '../../store/selectors'
import { usePlace } from '../../transport/use-place'
import { CURVE_HZ } from '../read-curve'
import { dbToY, type SheetScale, toX, withinSheet } from '../sheet-scale'

type Following = Extract<Treatment, { kind: 'follow' | 'duck' }>

/** A band without a range is drawn in the shape of this one. */
const SHAPE_DB = 6
/** The deepest of the last seconds stays as long as this. */
const HELD_MS = 3000

interface FollowLayerProps {
  readonly node: string
  readonly treatment: Following
  readonly scale: SheetScale
}

/**
 * How far a treatment that follows is drawn, hanging from the zero line: as it may go at most, dashed; as it stands at
 * this moment, filled; its deepest in the last seconds as a hairline.
 */
export function FollowLayer({ node, treatment, scale }: FollowLayerProps) {
  const desk = useDesk()
  const { sampleRateHz } = useRouting()
  const place = usePlace()
  const signals = useRef([place.current])
  const deepest = useRef<Held | null>(null)
  const { id } = treatment
  useEffect(() => {
    desk.player.showGains(node, id)
    deepest.current = null
    return () => desk.player.showGains(null, '')
  }, [desk, node, id])
  const curve = useMemo(() => curveFor(treatment, sampleRateHz), [treatment, sampleRateHz])
  const draw = useCallback(
    (surface: Surface) => {
      const { context, sheet } = surface
      const line = (db: ArrayLike<number>) => {
        context.beginPath()
        for (let i = 0; i < CURVE_HZ.length; i++) {
          const y = dbToY(withinSheet(db[i], scale), scale)
          if (i === 0) context.moveTo(toX(CURVE_HZ[i], scale), y)
          else context.lineTo(toX(CURVE_HZ[i], scale), y)
        }
      }
      context.lineWidth = 1.25
      context.strokeStyle = sheet.accent
      context.setLineDash([5, 4])
      line(curve.most)
      context.stroke()
      context.setLineDash([])
      const now = desk.player.playing ? curve.now(desk.player.gainsNow) : null
      if (!now) {
        deepest.current = null
        return
      }
      line(now)
      context.lineTo(scale.width - PLOT_RIGHT, dbToY(0, scale))
      context.lineTo(PLOT_LEFT, dbToY(0, scale))
      context.closePath()
      context.globalAlpha = 0.35
      context.fillStyle = sheet.accent
      context.fill()
      context.globalAlpha = 1
      deepest.current = heldWith(deepest.current, now)
      line(deepest.current.db)
      context.lineWidth = 1
      context.strokeStyle = sheet.inkSoft
      context.stroke()
    },
    [desk, curve, scale],
  )
  return (
    <Plot
      className="over"
      draw={draw}
      signals={signals.current}
      label="How far bands may be drawn at most, dashed, and are drawn while it plays"
    />
  )
}

interface Held {
  readonly db: Float64Array
  readonly at: number
}

/** The furthest from zero of the last seconds, place by place. */
function heldWith(held: Held | null, now: Float64Array): Held {
  const at = performance.now()
  if (!held || at - held.at > HELD_MS) return { db: now.slice(), at }
  for (let i = 0; i < now.length; i++) {
    if (Math.abs(now[i]) > Math.abs(held.db[i])) held.db[i] = now[i]
  }
  return held
}

interface FollowCurve {
  readonly most: Float64Array
  /** The curve of gains in dB, in the order in which the treatment gives them. */
  readonly now: (gains: Float32Array) => Float64Array | null
}

/** How far a treatment goes at most, and how its present gains are drawn, at {@link CURVE_HZ}. */
export function curveFor(treatment: Following, rateHz: number): FollowCurve {
  if (treatment.kind === 'follow') {
    const { bands } = treatment.params
    // A band's shape per decibel, read once: between nothing and its range it hardly changes.
    const shapes = bands.map((band) => {
      const db = band.rangeDb === 0 ? -SHAPE_DB : band.rangeDb
      return magnitudeDb(followFilters(band, db), CURVE_HZ, rateHz).map((v) => v / db)
    })
    const sum = (gainOf: (band: FollowBand, i: number) => number) => {
      const out = new Float64Array(CURVE_HZ.length)
      bands.forEach((band, i) => {
        const gain = band.on ? gainOf(band, i) : 0
        for (let k = 0; k < out.length; k++) out[k] += gain * shapes[i][k]
      })
      return out
    }
    return {
      most: sum((b) => b.rangeDb),
      now: (gains) => (gains.length === bands.length ? sum((_, i) => gains[i]) : null),
    }
  }
  const { fromHz, toHz, depthDb, fineness } = treatment.params
  const [from, to] = [hzToErbNumber(fromHz), hzToErbNumber(toHz)]
  const count = Math.max(1, Math.round((to - from) / DUCK_WIDTHS[fineness - 1]))
  const middles = Array.from({ length: count }, (_, i) =>
    erbNumberToHz(from + ((i + 0.5) * (to - from)) / count),
  )
  return {
    most: Float64Array.from(CURVE_HZ, (hz) => (hz >= fromHz && hz <= toHz ? -depthDb : 0)),
    now(gains) {
      if (gains.length === 0) return null
      return Float64Array.from(CURVE_HZ, (hz) => {
        if (hz < fromHz || hz > toHz) return 0
        const at = ((hzToErbNumber(hz) - from) / (to - from)) * gains.length - 0.5
        const k = Math.max(0, Math.min(middles.length - 2, Math.floor(at)))
        const share = Math.max(0, Math.min(1, at - k))
        return (gains[k] ?? 0) * (1 - share) + (gains[k + 1] ?? gains[k] ?? 0) * share
      })
    },
  }
}
