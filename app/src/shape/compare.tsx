import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import {
  type CorrectionSettings,
  INAUDIBLE_NOISE_DB,
  type NotMatched,
  pairOf,
  USUAL_CORRECTION,
} from '@sober-prism/core/match'
import { chainOf } from '@sober-prism/core/session'
import type { KeptProfile } from '@sober-prism/engine'
import { useState } from 'react'
import { Choice } from '../controls/choice'
import { Column, PlainList, Row } from '../controls/layout'
import { Running } from '../controls/running'
import { signed } from '../format'
import { DbField, HzField, PercentField } from '../sheet/editors/figures'
import { SMOOTHINGS, smoothingName } from '../sheet/editors/match-editor'
import { useDesk } from '../shell/desk-context'
import { EITHER_MISSING, useWork } from '../shell/use-asked'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { Section } from './section'
import { type Comparison, selectShape, shapeActions } from './shape-slice'
import { TakeMatch } from './take-match'
import { type Target, targetsOf } from './targets'

/** What the chosen node is held against, and what then no equaliser can match. */
export function Compare({ node, library }: { node: string; library: readonly KeptProfile[] }) {
  const session = useSession()
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const { comparison } = useAppSelector(selectShape)
  const [chosen, setChosen] = useState('')
  const [changed, setChanged] = useState<Partial<CorrectionSettings>>({})
  const { busy, trouble, tell, run, stop } = useWork()
  const targets = targetsOf(session, node, library)
  const target = targets.find((t) => t.key === chosen) ?? targets[0]
  const settings = { ...(target?.isOtherPiece ? OTHER_PIECE : SAME_SOURCE), ...changed }
  const name = nodeName(session, node)
  const own = comparison?.node === node ? comparison : null
  const compare = (to: Target) =>
    run(async ({ signal, onProgress }) => {
      const part = (from: number, share: number) => ({
        signal,
        onProgress: (s: number) => onProgress(from + share * s),
      })
      const chain = chainOf(session, node)
      const mine = await desk.ask.profile({ of: { node }, title: { name } }, part(0, 0.3))
      const other = await to.profile(desk, part(0.3, 0.3))
      if (!chain || !mine || !other) return tell(EITHER_MISSING)
      const input = { from: mine, to: other, settings }
      const ways = await desk.ask.match(input, part(0.6, 0.4))
      if (!ways) return
      const pair = pairOf(mine, other)
      dispatch(shapeActions.compared({ ...input, pair, node, target: to.name, ways, chain }))
    })
  /** With other settings the same two profiles are matched anew. */
  const set = (change: Partial<CorrectionSettings>) => {
    setChanged({ ...changed, ...change })
    if (comparison?.node !== node || comparison.target !== target?.name) return
    const { from, to } = comparison
    if (!from || !to) return
    void run(async (options) => {
      const input = { from, to, settings: { ...settings, ...change } }
      const ways = await desk.ask.match(input, options)
      if (ways) dispatch(shapeActions.compared({ ...comparison, ...input, ways }))
    })
  }
  return (
    <Section of="match" title="Match" word="Match" says={saysOf(own)}>
      {target ? (
        <>
          <Choice
            label="Target"
            value={target.key}
            options={targets.map((t) => [t.key, t.words] as const)}
            onChange={setChosen}
          />
          <Row>
            <Choice
              label="Smoothing"
              value={smoothingName(settings.smoothing)}
              options={SMOOTHINGS.map(([n]) => [n, n === 'erb' ? 'Auditory (ERB)' : `${n} oct`])}
              onChange={(n) =>
                set({ smoothing: SMOOTHINGS.find(([s]) => s === n)?.[1] ?? settings.smoothing })
              }
            />
            <PercentField
              label="Amount"
              value={settings.amount}
              most={1.5}
              onChange={(v) => set({ amount: v })}
            />
            <DbField
              label="Max boost and cut"
              value={settings.mostBoostDb}
              limits={[1, 24]}
              onChange={(v) => set({ mostBoostDb: v, mostCutDb: v })}
            />
          </Row>
          <Row>
            <HzField
              label="From"
              value={settings.fromHz}
              limits={[20, settings.toHz / 1.5]}
              onChange={(v) => set({ fromHz: v })}
            />
            <HzField
              label="To"
              value={settings.toHz}
              limits={[settings.fromHz * 1.5, 20_000]}
              onChange={(v) => set({ toHz: v })}
            />
          </Row>
          {busy === null ? (
            <Button
              data-command="match"
              sx={{ justifySelf: 'start' }}
              onClick={() => void compare(target)}
            >
              Compare {name} with {target.name}
            </Button>
          ) : (
            <Running what={`Comparing ${name} with ${target.name}`} share={busy} onCancel={stop} />
          )}
        </>
      ) : (
        <Typography color="textSecondary">
          Nothing to match to yet. Add another track, a reference or a profile.
        </Typography>
      )}
      <Column aria-live="polite">
        {trouble && <Typography color="warning">{trouble}</Typography>}
        {own?.from && busy === null && (
          <>
            <TakeMatch comparison={own} />
            <Stays from={name} to={own.target} list={own.ways.byBands[0].notMatched} />
          </>
        )}
      </Column>
    </Section>
  )
}

function saysOf(comparison: Comparison | null): string {
  return comparison?.from
    ? `Compared with ${comparison.target}`
    : 'Bring it close to another track, a reference or a profile'
}

/** Another microphone or take of the same source: places answer each other. */
const SAME_SOURCE: CorrectionSettings = { ...USUAL_CORRECTION, mostBoostDb: 9, mostCutDb: 9 }
/** Another piece: only its broad shape is a target, and half of it at first. */
const OTHER_PIECE: CorrectionSettings = {
  ...USUAL_CORRECTION,
  smoothing: 1,
  mostBoostDb: 6,
  mostCutDb: 6,
  amount: 0.5,
}

const NAMES: Readonly<Record<NotMatched['what'], string>> = {
  room: 'Room',
  noise: 'Noise floor',
  dynamics: 'Dynamics',
  width: 'Width',
}

/** What stays different, each in figures and in words. */
function Stays({ from, to, list }: { from: string; to: string; list: readonly NotMatched[] }) {
  return (
    <>
      <Typography variant="h3">What EQ cannot match</Typography>
      {list.length === 0 && (
        <Typography variant="body2">
          Nothing measurable: room, noise, dynamics and width are alike, or one of the two never
          pauses long enough.
        </Typography>
      )}
      <PlainList>
        {list.map((n) => (
          <Column key={n.what} as="li" sx={{ gap: '2px' }}>
            <Typography>{NAMES[n.what]}</Typography>
            <Typography variant="body2" color="textSecondary">
              {from} {figureOf(n, 'from')}, {to} {figureOf(n, 'to')}
            </Typography>
            <Typography variant="body2">{meaningOf(n)}</Typography>
          </Column>
        ))}
      </PlainList>
    </>
  )
}

function figureOf({ what, unit, atMost, ...values }: NotMatched, side: 'from' | 'to'): string {
  const value = values[side]
  if (what === 'room') return `decay ${value.toFixed(2)} s`
  if (what === 'width')
    return value <= -60 ? 'mono' : `side signal ${signed(value)} dB relative to mid`
  if (what === 'noise') {
    const under = `${Math.abs(Math.max(INAUDIBLE_NOISE_DB, value)).toFixed(0)} dB`
    const isLess = atMost === side || value <= INAUDIBLE_NOISE_DB
    return `noise ${under}${isLess ? ' or more' : ''} below the signal`
  }
  return `range ${value.toFixed(1)} ${unit}`
}

function meaningOf({ what, from, to }: NotMatched): string {
  switch (what) {
    case 'room':
      return from > to ? 'It will still sound roomier.' : 'It will still sound drier.'
    case 'noise':
      return from > to ? 'Its noise stays; boosts raise it.' : 'It stays cleaner.'
    case 'dynamics':
      return from > to ? 'A leveller would close part of it.' : 'It stays more even.'
    case 'width':
      return from > to ? 'It stays wider.' : 'It stays narrower.'
  }
}
