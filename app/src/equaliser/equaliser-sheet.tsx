import { chainBands } from '@sober-prism/core/chain'
import type { FilterType } from '@sober-prism/core/session'
import { makeBands } from '@sober-prism/core/spectrum'
import { type MouseEvent, useCallback, useMemo } from 'react'
import { formatDb } from '../format'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers } from '../plot/plumb'
import { drawPlumb } from '../plot/strip'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenOwner, ownerName, trackOf, useSession } from '../store/selectors'
import { chainOf, MIX } from '../store/session-slice'
import { useRoot, useSend } from '../store/store'
import { topLevelDb } from '../survey/top-level'
import { useSize } from '../use-size'
import { BandEditor } from './band-editor'
import { drawSheet, type SheetPicture } from './draw-sheet'
import { MarkHandles } from './mark-handles'
import { STAGE_NAMES, TYPE_NAMES } from './names'
import { curveOf } from './read-curve'
import { type SheetScale, toHz, yToDb } from './sheet-scale'
import { StagePanel } from './stage-panel'
import { layOutMarks, moveLetter } from './survey-mark'
import { useMoves } from './use-moves'

const SIGNALS = [plumb]
const SIXTHS = makeBands('sixth')
const RANGES_DB = [12, 18, 30]
/** Kinds that stand in the row of new moves; the others are chosen in the move itself. */
const NEW_TYPES: readonly FilterType[] = ['bell', 'low-shelf', 'high-shelf', 'low-cut', 'high-cut']

/** The equaliser of the chosen track or the mix, on the same ruler as the strips above it. */
export function EqualiserSheet() {
  const session = useSession()
  const owner = useRoot(chosenOwner)
  const stage = useRoot((root) => root.interface.stage)
  const moveId = useRoot((root) => root.interface.moveId)
  const send = useSend()
  const analysis = useAnalysis()
  const editing = useMoves(owner, stage)
  const [ref, size] = useSize<HTMLDivElement>()
  const chain = chainOf(session, owner)
  const track = trackOf(session, owner)
  const moves = chain?.[stage].moves ?? []
  const rateHz = session.sampleRateHz
  const curve = useMemo(
    () => curveOf(chain ? chainBands(chain).map((b) => b.band) : [], rateHz),
    [chain, rateHz],
  )
  const chosenBand = moves.find((m) => m.id === moveId)?.band
  const chosenCurve = useMemo(
    () => (chosenBand ? curveOf([chosenBand], rateHz) : null),
    [chosenBand, rateHz],
  )
  const scale = useMemo<SheetScale>(() => {
    const most = moves.reduce((a, m) => Math.max(a, Math.abs(m.band.db)), 0)
    return { ...size, rangeDb: RANGES_DB.find((r) => r >= most) ?? 30 }
  }, [size, moves])
  const marks = useMemo(
    () =>
      layOutMarks(
        moves,
        moves.map((_, i) => moveLetter(i)),
        scale,
        session.sampleRateHz,
      ),
    [moves, scale, session.sampleRateHz],
  )
  const chosen = moves.findIndex((m) => m.id === moveId)

  const picture = useMemo<SheetPicture>(() => {
    const leadId = session.leadIds.find((id) => id !== owner) ?? null
    const levels = owner === MIX ? analysis.mix?.levels : analysis.tracks.get(owner)?.levels
    const lead = leadId !== null ? analysis.tracks.get(leadId)?.levels : null
    const fader = (id: string | null) => (id ? (trackOf(session, id)?.faderDb ?? 0) : 0)
    const shift = (values: ArrayLike<number> | null | undefined, db: number) =>
      values ? Float64Array.from(values, (v) => v + db) : null
    return {
      scale,
      curve,
      chosenCurve,
      marks,
      chosenId: moveId,
      levelBands: SIXTHS,
      levels: shift(levels, owner === MIX ? 0 : fader(owner)),
      leadLevels: owner === MIX ? null : shift(lead, fader(leadId)),
      topDb: topLevelDb(session, analysis),
      balance: owner === MIX ? analysis.balance : null,
    }
  }, [session, owner, analysis, scale, curve, chosenCurve, marks, moveId])

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
  const name = ownerName(session, owner)
  return (
    <section className="equaliser" aria-label={`Equaliser of ${name}`}>
      <StagePanel />
      <div className="sheet-side">
        <div ref={ref} className="sheet-box">
          <Plot
            className="sheet"
            draw={draw}
            signals={SIGNALS}
            label={`Equaliser curve of ${name}, ${STAGE_NAMES[stage]}: ${moves.length} moves`}
            onDoubleClick={addAt}
            {...plumbHandlers}
          >
            {marks.map((mark, i) => (
              <MarkHandles
                key={mark.moveId}
                mark={mark}
                move={moves[i]}
                scale={scale}
                editing={editing}
                chosen={i === chosen}
                onChoose={() => send(interfaceActions.moveChosen({ moveId: mark.moveId }))}
              />
            ))}
          </Plot>
        </div>
        <div className="band-row">
          {chosen >= 0 ? (
            <BandEditor
              letter={moveLetter(chosen)}
              move={moves[chosen]}
              stereo={owner === MIX || track?.audio.channels === 2}
              editing={editing}
            />
          ) : (
            <p className="hint">
              {moves.length === 0
                ? `No moves in ${STAGE_NAMES[stage]} yet. Double-click the sheet, or add one:`
                : 'Choose a flag to change its move, or add one:'}
            </p>
          )}
          <div className="new-moves" role="toolbar" aria-label="New move">
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
        </div>
      </div>
    </section>
  )
}

const START_HZ: Partial<Record<FilterType, number>> = {
  bell: 1000,
  'low-shelf': 150,
  'high-shelf': 6000,
  'low-cut': 60,
  'high-cut': 12000,
}
