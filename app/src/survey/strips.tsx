import Typography from '@mui/material/Typography'
import { type WinnablePlace, winnablePlaces } from '@sober-prism/core/findings'
import { groupsAbove } from '@sober-prism/core/session'
import { makeBands } from '@sober-prism/core/spectrum'
import { MIX } from '@sober-prism/core/treatments'
import { memo, useCallback, useMemo } from 'react'
import { Choice } from '../controls/choice'
import { Beside, Row } from '../controls/layout'
import { formatDb, formatShare, signed } from '../format'
import { RulerPlot } from '../plot/ruler-plot'
import { bandAt } from '../plot/strip'
import { topLevelDb, topOf } from '../plot/top-level'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, liveLine, openSession, useRouting } from '../store/selectors'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { HearReference } from '../tracks/hear-reference'
import { TrackList } from '../tracks/track-list'
import type { TrackRowOf } from '../tracks/track-order'
import { StripPlot } from './strip-plot'
import { selectSurvey, surveyActions } from './survey-slice'

const SIXTHS = makeBands('sixth')

/**
 * One strip per track, the mix, a reference, and the ruler under all of them.
 * @param onSheet shows a node's sheet; null where sheets are shown already.
 */
export function Strips({ onSheet }: { onSheet: ((node: string) => void) | null }) {
  const session = useRouting()
  const analysis = useAnalysis('tracks', 'groups', 'mix', 'heard', 'findings')
  const dispatch = useAppDispatch()
  const { openStrips } = useAppSelector(selectSurvey)
  const reference = useReference()
  const topDb = topLevelDb(session, analysis)
  const winnable = useMemo(() => winnablePlaces(analysis.findings ?? []), [analysis.findings])
  const wholeTop = Math.max(topOf(analysis.mix?.levels), topOf(reference?.levels))
  const onOpen = useCallback(
    (node: string) => void dispatch(surveyActions.stripOpened(node)),
    [dispatch],
  )
  // A double press shows the sheet first, then the curve.
  const onDouble = onSheet ?? onOpen
  const onPlace = useCallback(
    (finding: string) => {
      dispatch(interfaceActions.findingOpened(finding))
      dispatch(surveyActions.tabChosen('Findings'))
      if (!store.getState().interface.evidenceOpen) dispatch(interfaceActions.evidenceFolded())
    },
    [dispatch],
  )
  const more = (node: string) => [
    {
      name: 'Show as a curve',
      checked: openStrips.includes(node),
      run: () => onOpen(node),
    },
    {
      name: 'Show the equaliser',
      run: () => showSheet(dispatch, node),
    },
  ]
  const placesOf = useMemo(() => {
    const byTrack = new Map<string, WinnablePlace[]>()
    for (const p of winnable) byTrack.set(p.track, [...(byTrack.get(p.track) ?? []), p])
    return byTrack
  }, [winnable])
  const stripOf = ({ kind, node }: TrackRowOf) => {
    const above = groupsAbove(session, node.id)
    const muted = node.mute || above.some((g) => g.mute)
    const gainDb = node.faderDb + above.reduce((sum, g) => sum + g.faderDb, 0)
    const heard = analysis.heard.get(node.id)
    const share = heard && !muted ? `, ${formatShare(heard.share)} heard` : ''
    const measured = (kind === 'track' ? analysis.tracks : analysis.groups).get(node.id)
    const places = muted ? undefined : placesOf.get(node.id)
    return (
      <StripPlot
        node={node.id}
        label={`Spectrum of ${kind === 'group' ? 'the group ' : ''}${node.name}${share}${placesText(places)}`}
        bands={SIXTHS}
        levels={measured?.levels ?? null}
        topDb={topDb - gainDb}
        covered={muted ? undefined : heard?.covered}
        winnable={places}
        open={openStrips.includes(node.id)}
        gainDb={gainDb}
        muted={muted}
        line={liveLine(session, node.id)}
        onDouble={onDouble}
        onPlace={onPlace}
      />
    )
  }
  return (
    <TrackList
      isOpen={(id) => openStrips.includes(id)}
      more={more}
      beside={(row) =>
        row === 'mix' ? (
          <StripPlot
            node={MIX}
            label="Spectrum of the mix"
            bands={SIXTHS}
            levels={analysis.mix?.levels ?? null}
            topDb={wholeTop}
            open={openStrips.includes(MIX)}
            gainDb={0}
            line={liveLine(session, MIX)}
            onDouble={onDouble}
          />
        ) : (
          stripOf(row)
        )
      }
    >
      {reference && <ReferenceStrip {...reference} topDb={wholeTop} />}
      <RulerRow />
    </TrackList>
  )
}

/** Chooses a node and shows its sheet under the strips. */
export function showSheet(dispatch: ReturnType<typeof useAppDispatch>, node: string): void {
  dispatch(interfaceActions.nodeChosen(node))
  dispatch(interfaceActions.surveySheetShown(true))
}

type ReferenceLevels = NonNullable<ReturnType<typeof useReference>>

/** The chosen reference with its levels at the loudness of the mix. */
function useReference() {
  const session = useRouting()
  const { references, mix } = useAnalysis('references', 'mix')
  const { referenceId } = useAppSelector(selectSurvey)
  const reference =
    session.references.find((r) => r.id === referenceId) ?? session.references[0] ?? null
  const measured = reference ? references.get(reference.id) : undefined
  const shiftDb = (mix?.lufs ?? 0) - (measured?.lufs ?? mix?.lufs ?? 0)
  const levels = useMemo(
    () => measured && Float64Array.from(measured.levels, (v) => v + shiftDb),
    [measured, shiftDb],
  )
  return reference && { reference, levels, shiftDb }
}

const ReferenceStrip = memo(function ReferenceStrip(props: ReferenceLevels & { topDb: number }) {
  const references = useAppSelector((root) => openSession(root).references)
  const dispatch = useAppDispatch()
  const { reference, levels, shiftDb, topDb } = props
  return (
    <Beside
      as="div"
      sx={{ flex: 'none', gridTemplateRows: '32px', borderBottom: 1, borderColor: 'divider' }}
    >
      <Row
        sx={{ justifyContent: 'space-between', flexWrap: 'nowrap', p: '0 6px 0 8px', minWidth: 0 }}
      >
        <Choice
          label="Reference"
          value={reference.id}
          options={references.map((r) => [r.id, r.name] as const)}
          onChange={(id) => dispatch(surveyActions.referenceChosen(id))}
        />
        <span className="figure" title="Shown at the mix’s loudness">
          {shiftDb >= 0 ? '+' : ''}
          {signed(shiftDb)} dB
        </span>
        <HearReference id={reference.id} name={reference.name} />
      </Row>
      <StripPlot
        label={`Spectrum of the reference ${reference.name}`}
        node={reference.id}
        bands={SIXTHS}
        levels={levels ?? null}
        topDb={topDb}
        gainDb={0}
        line={null}
      />
    </Beside>
  )
})

/** The ruler, which carries the plumb line. */
function RulerRow() {
  const chosen = useAppSelector(chosenNode)
  const analysis = useAnalysis('tracks', 'groups', 'mix')
  const levels =
    chosen === MIX
      ? analysis.mix?.levels
      : (analysis.tracks.get(chosen) ?? analysis.groups.get(chosen))?.levels
  const readAt = (hz: number) =>
    levels ? `${formatDb(levels[bandAt(SIXTHS, hz)])} dB on the selected strip` : ''
  return (
    <Beside as="div" sx={{ flex: 'none', gridTemplateRows: '46px' }}>
      <Typography color="textSecondary" sx={{ alignSelf: 'center', pl: '10px' }}>
        Frequency, Hz
      </Typography>
      <RulerPlot reading={readAt} />
    </Beside>
  )
}

function placesText(places: readonly WinnablePlace[] | undefined): string {
  if (!places) return ''
  const spans = places.map((p) => `${Math.round(p.fromHz)} to ${Math.round(p.toHz)} Hz`)
  return `; a move could recover ${spans.join(' and ')}`
}
