import Typography from '@mui/material/Typography'
import { PHASE_NAMES } from '@sober-prism/core/filters'
import { newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { useCallback, useDeferredValue, useMemo, useSyncExternalStore } from 'react'
import { Choice } from '../../controls/choice'
import { Row } from '../../controls/layout'
import { TickBox } from '../../controls/tick-box'
import { formatHz, signed } from '../../format'
import { Plot, type Surface } from '../../plot/plot'
import { plumb, plumbHandlers } from '../../plot/plumb'
import { hzToX } from '../../plot/ruler'
import { nodeName, useSession } from '../../store/selectors'
import { useAppDispatch, useAppSelector } from '../../store/store'
import { CURVE_HZ } from '../read-curve'
import { selectSheet, sheetActions } from '../sheet-slice'
import { type DrawnLine, drawReading, type ReadingPicture, spanOfLines } from './draw-reading'
import { GainsReading } from './gains-reading'
import { LowEndBelow } from './low-end-reading'
import {
  type PhaseReading,
  type ReadingKind,
  type ReadingLine,
  readCost,
  readLine,
} from './read-chain'
import { ReadingPanel } from './reading-panel'
import { PAIR_BANDS, type PairLevels, usePair } from './use-pair'

const PLUMB = [plumb]
const NOTHING: readonly NamedLine[] = []
const UNITS = { phase: '°', delay: 'ms', impulse: '', step: '' } as const
const NAMES = {
  phase: 'Phase',
  delay: 'Group delay',
  impulse: 'Impulse response',
  step: 'Step response',
} as const
/** A picture spans at least so much. */
const LEAST_SPAN = { phase: 90, delay: 1, impulse: 0.2, step: 0.2 } as const

/** A line with the phase mode it is read in, where there are several. */
interface NamedLine extends ReadingLine {
  readonly name: string
}

interface ChainReadingProps {
  readonly node: string
  readonly treatments: readonly Treatment[]
  /** The treatment that stands on the sheet. */
  readonly shown: Treatment | null
}

/** Below the sheet: what a chain does to phase and time, or how its track adds up with another one. */
export function ChainReading(props: ChainReadingProps) {
  const { reading } = useAppSelector(selectSheet)
  if (reading.kind === 'off') return null
  if (reading.kind === 'low-end') return <LowEndBelow node={props.node} shown={props.shown} />
  if (reading.kind === 'gains') return <GainsReading shown={props.shown} />
  return reading.kind === 'sum' ? (
    <PairReading node={props.node} />
  ) : (
    <ResponseReading {...props} kind={reading.kind} />
  )
}

const OF = [
  ['chain', 'Whole chain'],
  ['treatment', 'Treatment'],
  ['band', 'Band'],
] as const

function ResponseReading({
  node,
  treatments,
  shown,
  kind,
}: ChainReadingProps & { kind: ReadingKind }) {
  const session = useSession()
  const dispatch = useAppDispatch()
  const { reading } = useAppSelector(selectSheet)
  const bandId = useAppSelector((root) => root.interface.bandId)
  const rateHz = session.sampleRateHz
  const { of, unwrapped, modes } = reading
  const what = useDeferredValue(useRead(treatments, shown, bandId, of))
  const lines = useMemo(() => {
    if (!what) return NOTHING
    const read = (list: readonly Treatment[]) => readLine(list, kind, rateHz, unwrapped)
    const own = phaseOf(what)
    const others = modes && own ? PHASE_NAMES.filter((p) => p !== own) : []
    return [
      { ...read(what), name: own && modes ? own : '' },
      ...others.map((phase) => ({ ...read(inPhase(what, phase)), name: phase })),
    ]
  }, [what, kind, rateHz, unwrapped, modes])
  const own = what && phaseOf(what)
  const costs = useMemo(() => {
    if (!what || !own || !modes) return []
    return PHASE_NAMES.map((phase) => {
      const cost = readCost(inPhase(what, phase), rateHz)
      return `${phase}: ${costWords(cost)}`
    })
  }, [what, own, modes, rateHz])
  const picture = useMemo<ReadingPicture>(() => pictureOf(kind, lines), [kind, lines])
  const draw = useCallback((surface: Surface) => drawReading(surface, picture), [picture])
  const change = (values: Parameters<typeof sheetActions.readingChanged>[0]) =>
    dispatch(sheetActions.readingChanged(values))
  return (
    <ReadingPanel aria-label="Reading of the chain">
      <Row sx={{ gap: '2px 10px', p: '4px 12px 4px 10px' }}>
        <Typography variant="h2">{NAMES[kind]}</Typography>
        <Choice label="Read" value={of} options={OF} onChange={(v) => change({ of: v })} />
        {kind === 'phase' && (
          <TickBox
            label="Unwrap phase"
            checked={unwrapped}
            onChange={(v) => change({ unwrapped: v })}
          />
        )}
        <TickBox label="All phase modes" checked={modes} onChange={(v) => change({ modes: v })} />
        <Typography variant="figure" sx={{ minWidth: 200 }}>
          {!what ? (
            of === 'band' ? (
              'Select a band to read it.'
            ) : (
              'Nothing to show yet.'
            )
          ) : (
            <ReadAtPlumb lines={lines} kind={kind} />
          )}
        </Typography>
        {costs.map((text) => (
          <Typography key={text} variant="figure" sx={{ minWidth: 200 }}>
            {text}
          </Typography>
        ))}
      </Row>
      <Plot
        style={{ minHeight: 0 }}
        draw={draw}
        label={`${NAMES[kind]} of ${nodeName(session, node)}${modes && own ? `: ${own} phase drawn in full, ${otherNames(own)} dashed and dotted` : ''}`}
        {...(picture.time ? {} : plumbHandlers)}
      >
        {!picture.time && <Plot className="over" draw={drawLine} signals={PLUMB} />}
      </Plot>
    </ReadingPanel>
  )
}

/** The lines' values under the plumb line. */
function ReadAtPlumb({ lines, kind }: { lines: readonly NamedLine[]; kind: ReadingKind }) {
  const hz = useSyncExternalStore(plumb.watch, plumb.read)
  if (kind === 'impulse' || kind === 'step') {
    const [{ times }] = lines
    return times ? `from ${signed(times[0], 1)} to ${signed(times[times.length - 1], 1)} ms` : null
  }
  if (hz === null) return 'Point to read.'
  const at = CURVE_HZ.findIndex((f) => f >= hz)
  const digits = kind === 'phase' ? 1 : 3
  const values = lines.map(({ name, values: v }) =>
    `${name} ${signed(v[at < 0 ? v.length - 1 : at], digits)} ${UNITS[kind]}`.trim(),
  )
  return `${formatHz(hz)}: ${values.join(', ')}`
}

/** The sum with another track, as it is predicted and as it was measured. */
function PairReading({ node }: { node: string }) {
  const session = useSession()
  const dispatch = useAppDispatch()
  const { reading } = useAppSelector(selectSheet)
  const hz = useSyncExternalStore(plumb.watch, plumb.read)
  const others = session.tracks.filter((t) => t.id !== node)
  const other = others.find((t) => t.id === reading.other) ?? others[0]
  const isTrack = session.tracks.some((t) => t.id === node)
  const pair = usePair(node, isTrack && other ? other.id : null)
  const picture = useMemo(() => pair && pairPicture(pair), [pair])
  const draw = useCallback(
    (surface: Surface) => picture && drawReading(surface, picture),
    [picture],
  )
  if (!isTrack || !other) {
    return (
      <ReadingPanel aria-label="Sum of two tracks">
        <Typography sx={{ p: 1.5 }} color="textSecondary">
          {isTrack ? 'No other track to sum with.' : 'Select a track to see its sum with another.'}
        </Typography>
      </ReadingPanel>
    )
  }
  const at = hz === null ? -1 : PAIR_BANDS.findIndex((b) => b.toHz > hz)
  return (
    <ReadingPanel aria-label="Sum of two tracks">
      <Row sx={{ gap: '2px 10px', p: '4px 12px 4px 10px' }}>
        <Typography variant="h2">Sum with</Typography>
        <Choice
          label="Other track"
          value={other.id}
          options={others.map((t) => [t.id, `${t.letter} ${t.name}`] as const)}
          onChange={(id) => dispatch(sheetActions.readingChanged({ other: id }))}
        />
        <Typography variant="figure" sx={{ minWidth: 200 }}>
          {!pair
            ? 'Summing…'
            : at < 0
              ? overall(pair)
              : `${formatHz(PAIR_BANDS[at].hz)}: predicted ${signed(pair.sum[at] - pair.apart[at])}, measured ${signed(pair.measured[at] - pair.apart[at])} dB`}
        </Typography>
      </Row>
      <Plot
        style={{ minHeight: 0 }}
        draw={draw as (surface: Surface) => void}
        label={`What ${nodeName(session, node)} and ${other.name} gain or lose when summed, per sixth of an octave: predicted solid, measured dotted`}
        {...plumbHandlers}
      >
        <Plot className="over" draw={drawLine} signals={PLUMB} />
      </Plot>
    </ReadingPanel>
  )
}

/** What is gained or lost in all, and where most is lost. */
function overall({ sum, apart, measured }: PairLevels): string {
  const total = (levels: Float64Array) =>
    10 * Math.log10(levels.reduce((a, v) => a + 10 ** (v / 10), 0))
  const loudest = Math.max(...apart)
  let worst = -1
  for (let b = 0; b < sum.length; b++) {
    if (apart[b] < loudest - AUDIBLE_RANGE_DB) continue
    if (worst < 0 || sum[b] - apart[b] < sum[worst] - apart[worst]) worst = b
  }
  const gained = total(sum) - total(apart)
  const really = total(measured) - total(apart)
  return `${signed(gained)} dB in all (measured ${signed(really)}); at worst ${signed(sum[worst] - apart[worst])} dB at ${formatHz(PAIR_BANDS[worst].hz)}`
}

/** Bands further below the loudest tell nothing of a sum. */
const AUDIBLE_RANGE_DB = 40
/** Two that are alike gain 3 dB over two that are not; what cancels is shown down to here. */
const SUM_SPAN = [-18, 6] as const

function pairPicture(pair: PairLevels): ReadingPicture {
  const loudest = Math.max(...pair.apart)
  const heard = PAIR_BANDS.map((_, b) => b).filter((b) => pair.apart[b] > loudest - 60)
  const line = (levels: Float64Array, style: DrawnLine['style']): DrawnLine => ({
    style,
    values: heard.map((b) => levels[b] - pair.apart[b]),
    at: heard.map((b) => PAIR_BANDS[b].hz),
  })
  const lines = [line(pair.sum, 'now'), line(pair.measured, 'measured')]
  return { lines, span: SUM_SPAN, unit: 'dB', time: null }
}

function pictureOf(kind: ReadingKind, read: readonly ReadingLine[]): ReadingPicture {
  const styles = ['now', 'other', 'further'] as const
  const lines = read.map(
    ({ values, times }, i): DrawnLine => ({ style: styles[i], values, at: times ?? CURVE_HZ }),
  )
  const times = read.flatMap(({ times: t }) => (t ? [t[0], t[t.length - 1]] : []))
  return {
    lines,
    span: spanOfLines(lines, LEAST_SPAN[kind]),
    unit: UNITS[kind],
    time: times.length > 0 ? [Math.min(...times), Math.max(...times)] : null,
  }
}

function drawLine({ context, width, height, sheet }: Surface): void {
  if (plumb.value === null) return
  const x = Math.round(hzToX(plumb.value, width)) + 0.5
  context.strokeStyle = sheet.accent
  context.setLineDash([4, 3])
  context.beginPath()
  context.moveTo(x, 0)
  context.lineTo(x, height)
  context.stroke()
  context.setLineDash([])
}

/** What is to be read: the chain, the treatment on the sheet, or its chosen band; null where there is none. */
function useRead(
  treatments: readonly Treatment[],
  shown: Treatment | null,
  bandId: string | null,
  of: 'chain' | 'treatment' | 'band',
): readonly Treatment[] | null {
  return useMemo(() => {
    if (of === 'chain') return treatments
    if (!shown) return null
    if (of === 'treatment') return [{ ...shown, on: true }]
    if (shown.kind !== 'equaliser') return null
    const bands = shown.params.bands.filter((m) => m.id === bandId)
    if (bands.length === 0) return null
    const params = { ...shown.params, bands: bands.map((m) => ({ ...m, on: true })) }
    return [newTreatment('equaliser', shown.id, shown.stage, params)]
  }, [treatments, shown, bandId, of])
}

/** The phase mode of the first among treatments that has one to choose, and does something; null without one. */
function phaseOf(treatments: readonly Treatment[]) {
  for (const t of treatments) {
    if (!t.on) continue
    if (t.kind === 'equaliser' && t.params.bands.length > 0) return t.params.phase
    if (t.kind === 'match' && t.params.target !== '') return t.params.phase
  }
  return null
}

function inPhase(
  treatments: readonly Treatment[],
  phase: (typeof PHASE_NAMES)[number],
): readonly Treatment[] {
  return treatments.map((t) => {
    if (t.kind === 'equaliser') return { ...t, params: { ...t.params, phase } }
    return t.kind === 'match' ? { ...t, params: { ...t.params, phase } } : t
  })
}

function costWords({ latencyMs, preEchoDb }: PhaseReading): string {
  if (latencyMs < 0.05) return 'no latency'
  const echo = preEchoDb === null ? 'no pre-ringing' : `pre-ringing ${signed(preEchoDb, 0)} dB`
  return `latency ${latencyMs.toFixed(1)} ms, ${echo}`
}

function otherNames(own: string): string {
  return PHASE_NAMES.filter((p) => p !== own).join(' and ')
}
