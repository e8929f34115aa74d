import type { FilterType } from '@sober-prism/core/filters'
import { chainOf } from '@sober-prism/core/session'
import { makeBands } from '@sober-prism/core/spectrum'
import { type Mark, MIX, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { type MouseEvent, useCallback, useMemo } from 'react'
import { formatDb } from '../format'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers } from '../plot/plumb'
import { drawPlumb } from '../plot/strip'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, nodeOf, shownTreatment, useSession } from '../store/selectors'
import { useRoot, useSend } from '../store/store'
import { topLevelDb } from '../survey/top-level'
import { useSize } from '../use-size'
import { BandEditor } from './band-editor'
import { ChainPanel } from './chain-panel'
import { drawSheet, type SheetPicture } from './draw-sheet'
import { MarkHandles } from './mark-handles'
import { STAGE_NAMES, TYPE_NAMES } from './names'
import { curveOf } from './read-curve'
import { type SheetScale, toHz, yToDb } from './sheet-scale'
import { bandLetter, layOutMarks } from './survey-mark'
import { TreatmentEditor } from './treatment-editor'
import { type BandEditing, useBands } from './use-bands'

const SIGNALS = [plumb]
const SIXTHS = makeBands('sixth')
const RANGES_DB = [12, 18, 30]
/** Kinds that stand in the row of new bands; the others are chosen in the band itself. */
const NEW_TYPES: readonly FilterType[] = ['bell', 'low-shelf', 'high-shelf', 'low-cut', 'high-cut']
const NO_BANDS: readonly Mark[] = []
const NO_TREATMENTS: readonly Treatment[] = []

/** The chain of the chosen track, group or mix, and its treatment on the same ruler as the strips above it. */
export function EqualiserSheet() {
  const session = useSession()
  const node = useRoot(chosenNode)
  const view = useRoot((root) => root.interface)
  const treatments = chainOf(session, node)?.treatments ?? NO_TREATMENTS
  const treatment = shownTreatment(treatments, view)
  const equaliser = treatment?.kind === 'equaliser' ? treatment : null
  const editing = useBands(node, view.stage, equaliser?.id ?? null)
  return (
    <section className="equaliser" aria-label={`Equaliser of ${nodeName(session, node)}`}>
      <ChainPanel />
      <div className="sheet-side">
        <Sheet
          node={node}
          treatments={treatments}
          bands={equaliser?.params.bands ?? NO_BANDS}
          editing={editing}
        />
        <div className="band-row">
          {treatment && <TreatmentEditor node={node} treatment={treatment} />}
          {(!treatment || equaliser) && (
            <BandRow node={node} bands={equaliser?.params.bands ?? NO_BANDS} editing={editing} />
          )}
        </div>
      </div>
    </section>
  )
}

interface SheetProps {
  readonly node: string
  readonly treatments: readonly Treatment[]
  readonly bands: readonly Mark[]
  readonly editing: BandEditing
}

function Sheet({ node, treatments, bands, editing }: SheetProps) {
  const session = useSession()
  const analysis = useAnalysis()
  const send = useSend()
  const stage = useRoot((root) => root.interface.stage)
  const bandId = useRoot((root) => root.interface.bandId)
  const [ref, size] = useSize<HTMLDivElement>()
  const rateHz = session.sampleRateHz
  const curve = useMemo(() => curveOf(treatments, rateHz), [treatments, rateHz])
  const chosenMark = bands.find((m) => m.id === bandId)
  const chosenCurve = useMemo(
    () => (chosenMark ? curveOf([alone(chosenMark)], rateHz) : null),
    [chosenMark, rateHz],
  )
  const scale = useMemo<SheetScale>(() => {
    const most = bands.reduce((a, m) => Math.max(a, Math.abs(m.band.db)), 0)
    return { ...size, rangeDb: RANGES_DB.find((r) => r >= most) ?? 30 }
  }, [size, bands])
  const marks = useMemo(
    () =>
      layOutMarks(
        bands,
        bands.map((_, i) => bandLetter(i)),
        scale,
        rateHz,
      ),
    [bands, scale, rateHz],
  )
  const picture = useMemo<SheetPicture>(() => {
    const leadId = session.leadIds.find((id) => id !== node) ?? null
    const lead = leadId !== null ? analysis.tracks.get(leadId)?.levels : null
    const fader = (id: string | null) => (id ? (nodeOf(session, id)?.faderDb ?? 0) : 0)
    const shift = (values: ArrayLike<number> | null | undefined, db: number) =>
      values ? Float64Array.from(values, (v) => v + db) : null
    const levels =
      node === MIX
        ? analysis.mix?.levels
        : (analysis.tracks.get(node) ?? analysis.groups.get(node))?.levels
    return {
      scale,
      curve,
      chosenCurve,
      marks,
      chosenId: bandId,
      levelBands: SIXTHS,
      levels: shift(levels, node === MIX ? 0 : fader(node)),
      leadLevels: node === MIX ? null : shift(lead, fader(leadId)),
      topDb: topLevelDb(session, analysis),
      balance: node === MIX ? analysis.balance : null,
    }
  }, [session, node, analysis, scale, curve, chosenCurve, marks, bandId])
  const draw = useCallback(
    (surface: Surface) => {
      drawSheet(surface, picture)
      const hz = plumb.value
      if (hz !== null) drawPlumb(surface, hz, picture.curve.at(hz))
    },
    [picture],
  )
  const addAt = (event: MouseEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect()
    const hz = toHz(event.clientX - box.left, scale)
    const db = Math.round(2 * yToDb(event.clientY - box.top, scale)) / 2
    editing.add('bell', Number(hz.toPrecision(3)), db)
  }
  return (
    <div ref={ref} className="sheet-box">
      <Plot
        className="sheet"
        draw={draw}
        signals={SIGNALS}
        label={`Curve of ${nodeName(session, node)}, ${STAGE_NAMES[stage]}: ${bands.length} bands`}
        onDoubleClick={addAt}
        {...plumbHandlers}
      >
        {marks.map((mark, i) => (
          <MarkHandles
            key={mark.bandId}
            mark={mark}
            move={bands[i]}
            scale={scale}
            editing={editing}
            chosen={mark.bandId === bandId}
            onChoose={() => send(interfaceActions.bandChosen(mark.bandId))}
          />
        ))}
      </Plot>
    </div>
  )
}

/** One band as a treatment of its own, for its curve. */
function alone(mark: Mark): Treatment {
  const params = { phase: 'minimum' as const, bands: [{ ...mark, on: true }] }
  return newTreatment('equaliser', 'alone', 'shape', params)
}

interface BandRowProps {
  readonly node: string
  readonly bands: readonly Mark[]
  readonly editing: BandEditing
}

/** The chosen band's values, and new bands. */
function BandRow({ node, bands, editing }: BandRowProps) {
  const session = useSession()
  const stage = useRoot((root) => root.interface.stage)
  const bandId = useRoot((root) => root.interface.bandId)
  const chosen = bands.findIndex((m) => m.id === bandId)
  const track = session.tracks.find((t) => t.id === node)
  return (
    <>
      {chosen >= 0 ? (
        <BandEditor
          letter={bandLetter(chosen)}
          mark={bands[chosen]}
          stereo={track === undefined || track.audio.channels === 2}
          editing={editing}
        />
      ) : (
        <p className="hint">
          {bands.length === 0
            ? `No bands in ${STAGE_NAMES[stage]} yet. Double-click the sheet, or add one:`
            : 'Choose a flag to change its band, or add one:'}
        </p>
      )}
      <div className="new-moves" role="toolbar" aria-label="New band">
        {NEW_TYPES.map((type) => (
          <button
            key={type}
            type="button"
            className="plain"
            title={`New ${TYPE_NAMES[type].toLowerCase()} at ${formatDb(0)} dB`}
            onClick={() => editing.add(type, START_HZ[type] ?? 1000, 0)}
          >
            + {TYPE_NAMES[type]}
          </button>
        ))}
      </div>
    </>
  )
}

const START_HZ: Partial<Record<FilterType, number>> = {
  bell: 1000,
  'low-shelf': 150,
  'high-shelf': 6000,
  'low-cut': 60,
  'high-cut': 12000,
}
