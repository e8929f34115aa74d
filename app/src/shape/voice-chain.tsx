import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { readVoice, type VoiceMove, voiceMoves } from '@sober-prism/core/findings'
import { applyEdits, type Chain, chainOf, type Edit } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import type { Desk } from '@sober-prism/engine'
import { useMemo, useState } from 'react'
import { Row } from '../controls/layout'
import { TickBox } from '../controls/tick-box'
import { VOICE_MOVE_NAMES, voiceMoveText } from '../findings/voice-words'
import { capital, signed } from '../format'
import { useAnalysis, useDesk, useHeard } from '../shell/desk-context'
import { useWork } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { LeadHeard } from './lead-heard'
import { Section } from './section'

/** What the chain is called while it is heard before it is made. */
export const PROPOSED_CHAIN = 'the proposed chain'

const LEVEL = 'level'
const AT_MOST_DB = 4
const NORMALISE = 'normalise'
/** Room for what a player or an encoder adds between samples. */
const PEAK_DBTP = -1

/** A voice's whole chain in one action, each part of which can be left out: roll-off, nearness, clarity, leveller. */
export function VoiceChain({ node }: { node: string }) {
  const session = useSession()
  const { tracks } = useAnalysis('tracks')
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const heard = useHeard()?.rendition
  const [left, setLeft] = useState<readonly string[]>([])
  const { busy: share, trouble, run } = useWork()
  const busy = share !== null
  const track = session.tracks.find((t) => t.id === node)
  const reading = tracks.get(node)?.reading ?? null
  const treatments = track?.chain.treatments
  const moves = useMemo(
    () => (reading ? voiceMoves(readVoice(reading), treatments) : []),
    [reading, treatments],
  )
  const hasLeveller = treatments?.some((t) => t.kind === 'leveller' && t.on) ?? false
  if (!track || (track.role !== 'voice' && track.role !== 'speech')) return null
  const isLeft = (what: string) => left.includes(what) || (what === LEVEL && hasLeveller)
  const part = (what: string, label: string, why: string) => (
    <div key={what}>
      <TickBox
        label={label}
        checked={!isLeft(what)}
        onChange={() => setLeft(isLeft(what) ? left.filter((w) => w !== what) : [...left, what])}
      />
      <Typography variant="body2" color="textSecondary">
        {why}
      </Typography>
    </div>
  )
  // The leveller keeps the loudness: bands decide.
  const foreseenEdits = bandEdits(
    node,
    moves.filter((m) => !isLeft(m.what)),
    (index) => `${index}`,
  )
  const isHeard = heard?.kind === 'chain' && heard.node === node && heard.name === PROPOSED_CHAIN
  /** Finds what is left to be found, then does something with all parts that are chosen. */
  const found = (use: (edits: Edit[]) => Promise<void> | void) =>
    run(async ({ signal }) => {
      const edits = bandEdits(
        node,
        moves.filter((m) => !isLeft(m.what)),
      )
      const chain = chainOf(applyEdits(session, edits), node)
      if (!isLeft(LEVEL) && !hasLeveller && chain) {
        edits.push(...(await levelEdits(desk, node, chain, signal)))
      }
      await use(edits)
    })
  const hear = () => {
    if (isHeard) return desk.stopHearing()
    void found(async (edits) => {
      const chain = chainOf(applyEdits(session, edits), node)
      if (chain) await desk.hear({ kind: 'chain', node, name: PROPOSED_CHAIN, chain })
    })
  }
  const make = () =>
    found((edits) => {
      const normalise = { to: 'peak', dbtp: PEAK_DBTP } as const
      edit([
        ...edits,
        ...(isLeft(NORMALISE) ? [] : [{ kind: 'set-session', change: { normalise } } as const]),
      ])
      if (isHeard) desk.stopHearing()
      dispatch(interfaceActions.noticeShown(`Chain applied to ${track.name}.`, 'info', 'edit'))
    })
  return (
    <Section
      of="voice-chain"
      title="Voice chain"
      says={saysOf(reading ? moves.length : null, hasLeveller)}
    >
      {!reading && <Typography color="textSecondary">Not measured yet.</Typography>}
      {reading && (
        <>
          {moves.map((m) => part(m.what, voiceMoveText(m), `${capital(m.why)}.`))}
          <LeadHeard edits={foreseenEdits} />
          {!hasLeveller &&
            part(
              LEVEL,
              `Leveller: max reduction ${AT_MOST_DB} dB`,
              'The threshold is found from the passage; it keeps the loudness.',
            )}
          {part(
            NORMALISE,
            `Rendered mix: peak at ${signed(PEAK_DBTP)} dBTP`,
            'Applied on rendering; see Deliver.',
          )}
          <Row>
            <Button
              disabled={busy || [LEVEL, NORMALISE, ...moves.map((m) => m.what)].every(isLeft)}
              onClick={() => void make()}
            >
              {busy ? 'Finding the threshold…' : `Apply chain to ${track.name}`}
            </Button>
            <ToggleButton
              value="heard"
              selected={isHeard}
              disabled={busy || [LEVEL, ...moves.map((m) => m.what)].every(isLeft)}
              onClick={hear}
            >
              Listen first
            </ToggleButton>
          </Row>
        </>
      )}
      <div aria-live="polite">{trouble && <Typography color="warning">{trouble}</Typography>}</div>
    </Section>
  )
}

function saysOf(moves: number | null, hasLeveller: boolean): string {
  if (moves === null) return 'Not measured yet'
  const bands = moves === 0 ? 'no tone moves' : moves === 1 ? '1 tone move' : `${moves} tone moves`
  return capital(hasLeveller ? bands : `${bands}, leveller at most ${AT_MOST_DB} dB`)
}

/** The roll-off belongs to Clean, tone to Shape. */
function bandEdits(
  node: string,
  moves: readonly VoiceMove[],
  newId: (index: number) => string = () => crypto.randomUUID(),
): Edit[] {
  const ids = { clean: newId(0), shape: newId(1) }
  return moves.map(({ what, band, why }, i) => {
    const stage = what === 'roll-off' ? 'clean' : 'shape'
    const chainBand = {
      ...newChainBand(newId(2 + i), band),
      reason: `${VOICE_MOVE_NAMES[what]}: ${why}`,
    }
    return {
      kind: 'add-band',
      node,
      stage,
      treatment: null,
      newTreatment: ids[stage],
      chainBand,
    }
  })
}

/** A leveller behind a chain, with its threshold; nothing where the voice is too quiet for it. */
async function levelEdits(
  desk: Desk,
  node: string,
  chain: Chain,
  signal: AbortSignal,
): Promise<Edit[]> {
  const settings = {
    ...newTreatment('leveller', 'usual', 'shape').params,
    atMostDb: AT_MOST_DB,
  }
  const found = await desk.ask.levelling({ node, settings, chain }, { signal })
  if (found?.thresholdDb == null) return []
  // What it takes of the loudness it gives back.
  const outputDb = Math.round(-10 * (found.reading?.loudnessDb ?? 0)) / 10
  const params = { ...settings, thresholdDb: found.thresholdDb, outputDb }
  const treatment = {
    ...newTreatment('leveller', crypto.randomUUID(), 'shape', params),
    reason: `Max reduction ${AT_MOST_DB} dB`,
  }
  return [{ kind: 'add-treatment', node, treatment, before: null }]
}
