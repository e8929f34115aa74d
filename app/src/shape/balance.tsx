import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import {
  type BalanceRegion,
  heldBands,
  profileLevels,
  profileTarget,
  readBalance,
  slopeTarget,
} from '@sober-prism/core/findings'
import type { Profile } from '@sober-prism/core/match'
import { MIX, newMark, newTreatment } from '@sober-prism/core/treatments'
import { errorSentence, isCancel, type KeptProfile } from '@sober-prism/engine'
import { useEffect, useRef, useState } from 'react'
import { Choice } from '../controls/choice'
import { formatHz, signed } from '../format'
import { TYPE_NAMES } from '../sheet/names'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import styles from './shape.module.css'
import { targetsOf } from './targets'

const SLOPE = 'slope'

interface Found {
  readonly node: string
  readonly against: string
  readonly regions: readonly BalanceRegion[]
}

/** Where a node stands out of a slope, a reference or a profile in broad regions, and half of what would answer it. */
export function BalanceAgainst({
  node,
  library,
}: {
  node: string
  library: readonly KeptProfile[]
}) {
  const session = useSession()
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const [chosen, setChosen] = useState(SLOPE)
  const [found, setFound] = useState<Found | 'busy' | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const running = useRef<AbortController | null>(null)
  useEffect(() => () => running.current?.abort(), [])
  const name = nodeName(session, node)
  // A slope is common to whole mixes; a single source has a shape of its own.
  const isWhole = node === MIX || session.groups.some((g) => g.id === node)
  const kinds = isWhole ? ['profile', 'reference'] : ['profile']
  const targets = targetsOf(session, node, library).filter((t) =>
    kinds.includes(t.key.split(' ')[0]),
  )
  const target = targets.find((t) => t.key === chosen) ?? (isWhole ? null : targets[0])
  const read = async () => {
    const controller = new AbortController()
    running.current = controller
    const { signal } = controller
    setTrouble(null)
    setFound('busy')
    try {
      const own = await desk.profile({ node }, { name }, { signal })
      const other = target ? await target.profile(desk, { signal }) : null
      if (!own || (target && !other)) throw new Error('The audio of one of the two is missing.')
      setFound({ node, against: target?.name ?? 'the slope', regions: regionsOf(own, other) })
    } catch (error) {
      setFound(null)
      setTrouble(isCancel(error) || signal.aborted ? 'Stopped.' : errorSentence(error))
    }
  }
  const take = ({ against, regions }: Found) => {
    const bands = regions.map((r) => r.move).filter((b) => b.db !== 0)
    const marks = bands.map((band) => newMark(crypto.randomUUID(), band))
    const params = { phase: 'minimum', bands: marks } as const
    const treatment = {
      ...newTreatment('equaliser', crypto.randomUUID(), 'shape', params),
      reason: `Half of what stands out of ${against}`,
    }
    edit([{ kind: 'add-treatment', node, treatment, before: null }])
    dispatch(interfaceActions.treatmentChosen({ node, treatmentId: treatment.id, stage: 'shape' }))
    dispatch(interfaceActions.noticeShown(`${name} balanced.`, 'info', 'edit'))
  }
  const shown = found !== null && found !== 'busy' && found.node === node ? found : null
  if (target === undefined) {
    return (
      <section className={styles.pane} aria-label="Balance">
        <Typography variant="h2">Balance</Typography>
        <Typography variant="body2" color="text.secondary">
          A single source has no slope to stand against. Keep a profile of one that you trust, or
          choose the mix.
        </Typography>
      </section>
    )
  }
  return (
    <section className={styles.pane} aria-label="Balance">
      <Typography variant="h2">Balance</Typography>
      <div className={styles.row}>
        <Choice
          label="Against what"
          value={target?.key ?? SLOPE}
          options={[
            ...(isWhole ? [[SLOPE, 'against a slope of −4.5 dB per octave'] as const] : []),
            ...targets.map((t) => [t.key, `against ${t.words}`] as const),
          ]}
          onChange={setChosen}
        />
        <Button disabled={found === 'busy'} onClick={() => void read()}>
          {found === 'busy' ? 'Reading …' : `Read ${name}`}
        </Button>
      </div>
      <div aria-live="polite">
        {trouble && <Typography color="warning.main">{trouble}</Typography>}
        {shown?.regions.length === 0 && (
          <Typography>Nothing stands out of {shown.against} by more than its tolerance.</Typography>
        )}
        {shown && shown.regions.length > 0 && (
          <>
            <ul className={styles.list}>
              {shown.regions.map((r) => (
                <li key={r.hz} className={styles.item}>
                  <Typography>
                    {formatHz(r.fromHz)} to {formatHz(r.toHz)}: {signed(r.deviationDb)} dB
                  </Typography>
                  <Typography variant="body2" color="text.secondary">
                    tolerance {r.toleranceDb.toFixed(1)} dB; {TYPE_NAMES[r.move.type].toLowerCase()}{' '}
                    {formatHz(r.move.hz)} {signed(r.move.db)} dB
                  </Typography>
                </li>
              ))}
            </ul>
            <Button onClick={() => take(shown)}>Take half of it</Button>
          </>
        )}
      </div>
    </section>
  )
}

function regionsOf(own: Profile, other: Profile | null): readonly BalanceRegion[] {
  const target = other ? profileTarget(other) : slopeTarget()
  return readBalance(profileLevels(own), target, heldBands(own, other)).regions
}
