import { makeBands } from '@sober-prism/core/spectrum'
import { type ChainBand, MIX, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { type MouseEvent, type ReactNode, useCallback, useMemo } from 'react'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers } from '../plot/plumb'
import { isLookedAt, useRulerSpan } from '../plot/ruler'
import { drawPlumb } from '../plot/strip'
import { topLevelDb } from '../plot/top-level'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, nodeOf, useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { useSize } from '../use-size'
import type { BandEditing } from './bands/use-bands'
import { drawSheet, type SheetPicture } from './draw-sheet'
import { DrawnLayer } from './layers/drawn-layer'
import { pointAdded } from './layers/drawn-points'
import { FollowLayer } from './layers/follow-layer'
import { LiveSpectra } from './layers/live-spectra'
import { MarkHandles } from './layers/mark-handles'
import { OverlapLayer } from './layers/overlap-layer'
import { PencilHandles, pencilMarks } from './layers/pencil-marks'
import { bandLetter, layOutMarks } from './layers/survey-mark'
import { useGhosts } from './layers/use-ghosts'
import { STAGE_NAMES } from './names'
import { curveOf } from './read-curve'
import styles from './sheet.module.css'
import { type SheetScale, toHz, withinSheet, yToDb } from './sheet-scale'
import { type SheetSpan, selectSheet } from './sheet-slice'

const SIGNALS = [plumb]
const SIXTHS = makeBands('sixth')
const RANGES_DB = [12, 18, 30]
type DrawnCurve = Extract<Treatment, { kind: 'drawn-curve' }>

/** A curve drawn lower than this is shown down to silence. */
const DEEP_BELOW_DB = -30
const DEEP = { topDb: 24, bottomDb: -120 }

interface SheetPlotProps {
  readonly node: string
  readonly treatments: readonly Treatment[]
  readonly bands: readonly ChainBand[]
  readonly editing: BandEditing
  /** The treatment that is shown: a drawn curve has its points on the sheet. */
  readonly shown: Treatment | null
  /** What lies over the picture and its handles: something a step does on the sheet. */
  readonly over?: (scale: SheetScale, editing: BandEditing) => ReactNode
}

/** The curve of a chain with its marks, over what it treats. */
export function SheetPlot({ node, treatments, bands, editing, shown, over }: SheetPlotProps) {
  const session = useRouting()
  const analysis = useAnalysis('findings', 'mix', 'tracks', 'groups', 'balance')
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const stage = useAppSelector((root) => root.interface.stage)
  const bandId = useAppSelector((root) => root.interface.bandId)
  const alsoBands = useAppSelector((root) => root.interface.alsoBands)
  const { span } = useAppSelector(selectSheet)
  const ruler = useRulerSpan()
  const ghosts = useGhosts(node)
  const [ref, size] = useSize<HTMLDivElement>()
  const rateHz = session.sampleRateHz
  const curve = useMemo(() => curveOf(treatments, rateHz), [treatments, rateHz])
  const drawn = shown?.kind === 'drawn-curve' ? shown : null
  const chosenMark = bands.find((m) => m.id === bandId)
  const chosenCurve = useMemo(
    () => (chosenMark ? curveOf([alone(chosenMark)], rateHz) : null),
    [chosenMark, rateHz],
  )
  const { topDb: rangeDb, bottomDb } = spanOf(span, bands, drawn)
  const scale = useMemo<SheetScale>(
    () => ({ ...size, topDb: rangeDb, bottomDb, span: ruler }),
    [size, rangeDb, bottomDb, ruler],
  )
  const marks = useMemo(() => {
    const letters = bands.map((_, i) => bandLetter(i))
    return layOutMarks(bands, letters, scale, rateHz)
  }, [bands, scale, rateHz])
  const pencil = useMemo(
    () => pencilMarks(analysis.findings ?? [], node, bands, scale),
    [analysis.findings, node, bands, scale],
  )
  const topDb = topLevelDb(session, analysis)
  const faderDb = node === MIX ? session.mix.faderDb : (nodeOf(session, node)?.faderDb ?? 0)
  const levels = useMemo(() => {
    if (node === MIX) return analysis.mix?.levels ?? null
    const measured = analysis.tracks.get(node) ?? analysis.groups.get(node)
    return measured ? Float64Array.from(measured.levels, (v) => v + faderDb) : null
  }, [node, faderDb, analysis.mix, analysis.tracks, analysis.groups])
  const balance = node === MIX ? analysis.balance : null
  const picture = useMemo<SheetPicture>(
    () => ({
      scale,
      curve,
      chosenCurve,
      marks,
      pencil,
      chosenIds: [bandId, ...alsoBands],
      levelBands: SIXTHS,
      levels,
      ghosts,
      topDb,
      balance,
    }),
    [scale, curve, chosenCurve, marks, pencil, bandId, alsoBands, levels, ghosts, topDb, balance],
  )
  const draw = useCallback((surface: Surface) => drawSheet(surface, picture), [picture])
  const drawReading = useCallback(
    (surface: Surface) => {
      const hz = plumb.value
      if (hz !== null) drawPlumb(surface, hz, curve.at(hz))
    },
    [curve],
  )
  const addAt = (event: MouseEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect()
    const hz = toHz(event.clientX - box.left, scale)
    const db = Math.round(2 * yToDb(event.clientY - box.top, scale)) / 2
    if (!drawn) return editing.add('bell', Number(hz.toPrecision(3)), db)
    const points = pointAdded(
      drawn.params.points,
      Number(hz.toPrecision(4)),
      withinSheet(db, scale),
    )
    const change = { params: { ...drawn.params, points } }
    edit([{ kind: 'set-treatment', node, treatment: drawn.id, change }])
  }
  return (
    <div ref={ref} className={styles.box} data-testid="sheet">
      <Plot
        className={styles.sheet}
        draw={draw}
        label={`Curve of ${nodeName(session, node)}, ${STAGE_NAMES[stage]}: ${bands.length} bands`}
        onDoubleClick={addAt}
        {...plumbHandlers}
      >
        <LiveSpectra node={node} topDb={topDb} gainDb={faderDb} />
        <Plot className="over" draw={drawReading} signals={SIGNALS} />
        <PencilHandles marks={pencil} session={session} />
        {marks.map(
          (mark, i) =>
            isLookedAt(mark.band.hz, ruler) && (
              <MarkHandles
                key={mark.bandId}
                node={node}
                mark={mark}
                move={bands[i]}
                scale={scale}
                editing={editing}
                chosen={mark.bandId === bandId || alsoBands.includes(mark.bandId)}
                onChoose={(too) =>
                  dispatch(
                    too
                      ? interfaceActions.bandChosenToo(mark.bandId)
                      : interfaceActions.bandChosen(mark.bandId),
                  )
                }
              />
            ),
        )}
        {(shown?.kind === 'follow' || shown?.kind === 'duck') && (
          <FollowLayer node={node} treatment={shown} scale={scale} />
        )}
        {shown?.key && <OverlapLayer node={node} keyNode={shown.key.node} topDb={topDb} />}
        {drawn && <DrawnLayer node={node} treatment={drawn} scale={scale} />}
        {over?.(scale, editing)}
      </Plot>
    </div>
  )
}

function spanOf(
  span: SheetSpan,
  bands: readonly ChainBand[],
  drawn: DrawnCurve | null,
): Pick<SheetScale, 'topDb' | 'bottomDb'> {
  const lowest = drawn?.params.points.reduce((least, p) => Math.min(least, p.db), 0) ?? 0
  if (span === 'deep' || (span === 'auto' && lowest < DEEP_BELOW_DB)) return DEEP
  const most = [...(drawn?.params.points ?? []), ...bands.map((m) => m.band)].reduce(
    (a, { db }) => Math.max(a, Math.abs(db)),
    0,
  )
  const range = span === 'auto' ? (RANGES_DB.find((r) => r >= most) ?? 30) : span
  return { topDb: range, bottomDb: -range }
}

/** One band as a treatment of its own, for its curve. */
function alone(chainBand: ChainBand): Treatment {
  const params = { phase: 'minimum' as const, bands: [{ ...chainBand, on: true }] }
  return newTreatment('equaliser', 'alone', 'shape', params)
}
