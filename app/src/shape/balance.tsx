import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import {
  type AudibleEffect,
  type BalanceRegion,
  effectOfBands,
  heldBands,
  profileLevels,
  profileTarget,
  readBalance,
  regionDeviation,
  slopeTarget,
} from '@sober-prism/core/findings'
import { DEFAULT_CALIBRATION } from '@sober-prism/core/hearing'
import type { Profile } from '@sober-prism/core/match'
import { MIX, newChainBand, newTreatment } from '@sober-prism/core/treatments'
import type { KeptProfile } from '@sober-prism/engine'
import { useState } from 'react'
import { Choice } from '../controls/choice'
import { Column, PlainList, Row } from '../controls/layout'
import { effectText } from '../findings/effect-text'
import { capital, formatHz, signed } from '../format'
import { TYPE_NAMES } from '../sheet/names'
import { useDesk } from '../shell/desk-context'
import { EITHER_MISSING, useWork } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { stretchOf } from '../transport/kept-passages'
import { LeadHeard } from './lead-heard'
import { Section } from './section'
import { targetsOf } from './targets'

const SLOPE = 'slope'

/** A region that stands out, what its move would change, and how it stands in another passage. */
interface Read {
  readonly region: BalanceRegion
  readonly effect: AudibleEffect
  /** Null where no other passage was read beside it. */
  readonly besideDb: number | null
}

interface Found {
  readonly node: string
  readonly against: string
  readonly beside: string | null
  readonly read: readonly Read[]
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
  const [besideId, setBeside] = useState('')
  const [found, setFound] = useState<Found | null>(null)
  const { busy, trouble, tell, run } = useWork()
  const name = nodeName(session, node)
  const beside = session.passages.find((p) => p.id === besideId)
  // A slope is common to whole mixes; a single source has a shape of its own.
  const isWhole = node === MIX || session.groups.some((g) => g.id === node)
  const kinds = isWhole ? ['profile', 'reference'] : ['profile']
  const targets = targetsOf(session, node, library).filter((t) =>
    kinds.includes(t.key.split(' ')[0]),
  )
  const target = targets.find((t) => t.key === chosen) ?? (isWhole ? null : targets[0])
  const read = () =>
    run(async ({ signal }) => {
      setFound(null)
      const title = { name }
      const own = await desk.ask.profile({ of: { node }, title }, { signal })
      const other = target ? await target.profile(desk, { signal }) : null
      if (!own || (target && !other)) return tell(EITHER_MISSING)
      const there =
        beside &&
        (await desk.ask.profile({ of: { node, stretch: stretchOf(beside) }, title }, { signal }))
      const { regions } = balanceOf(own, other)
      const around = there ? balanceOf(there, other) : null
      const calibration = { lufs: DEFAULT_CALIBRATION.lufs, dbSpl: session.listeningDbSpl }
      const rate = session.sampleRateHz
      setFound({
        node,
        against: target?.name ?? 'the slope',
        beside: beside?.name ?? null,
        read: regions.map((region) => ({
          region,
          effect: effectOfBands([region.band], profileLevels(own), 'without', rate, calibration),
          besideDb: around && regionDeviation(around, region),
        })),
      })
    })
  const take = (found: Found) => {
    const treatment = treatmentOf(found, () => crypto.randomUUID())
    edit([{ kind: 'add-treatment', node, treatment, before: null }])
    dispatch(interfaceActions.treatmentChosen({ node, treatmentId: treatment.id, stage: 'shape' }))
    dispatch(interfaceActions.noticeShown(`Balance applied to ${name}.`, 'info', 'edit'))
  }
  const shown = busy === null && found?.node === node ? found : null
  if (target === undefined) {
    return (
      <Section of="balance" title="Balance" says="Needs a profile, a group or the mix">
        <Typography variant="body2" color="textSecondary">
          A slope suits only a mix or group. Save a profile of a similar source, or select the mix.
        </Typography>
      </Section>
    )
  }
  return (
    <Section of="balance" title="Balance" says={saysOf(shown)}>
      <Row>
        <Choice
          label="Balance target"
          value={target?.key ?? SLOPE}
          options={[
            ...(isWhole ? [[SLOPE, 'Slope of −4.5 dB/oct'] as const] : []),
            ...targets.map((t) => [t.key, capital(t.words)] as const),
          ]}
          onChange={setChosen}
        />
        {session.passages.length > 0 && (
          <Choice
            label="Compare another passage"
            value={beside?.id ?? ''}
            options={[
              ['', 'This passage only'] as const,
              ...session.passages.map((p) => [p.id, `And ${p.name}`] as const),
            ]}
            onChange={setBeside}
          />
        )}
        <Button disabled={busy !== null} data-command="balance" onClick={() => void read()}>
          {busy !== null ? 'Analysing…' : `Analyse ${name}`}
        </Button>
      </Row>
      <div aria-live="polite">
        {trouble && <Typography color="warning">{trouble}</Typography>}
        {shown?.read.length === 0 && (
          <Typography>Everything is within tolerance of {shown.against}.</Typography>
        )}
        {shown && shown.read.length > 0 && (
          <>
            <PlainList>
              {shown.read.map(({ region: r, effect, besideDb }) => (
                <Column key={r.hz} as="li" sx={{ gap: '2px' }}>
                  <Typography>
                    {formatHz(r.fromHz)} to {formatHz(r.toHz)}: {signed(r.deviationDb)} dB
                    {besideDb !== null && `; in ${shown.beside} ${signed(besideDb)} dB`}
                  </Typography>
                  {besideDb !== null && besideDb * r.deviationDb <= 0 && (
                    <Typography variant="body2">Not so in {shown.beside}.</Typography>
                  )}
                  <Typography variant="body2" color="textSecondary">
                    tolerance ±{r.toleranceDb.toFixed(1)} dB; half of it:{' '}
                    {TYPE_NAMES[r.band.type].toLowerCase()} {formatHz(r.band.hz)}{' '}
                    {signed(r.band.db)} dB, {effectText(effect)}
                  </Typography>
                </Column>
              ))}
            </PlainList>
            <LeadHeard
              edits={[
                {
                  kind: 'add-treatment',
                  node,
                  treatment: treatmentOf(shown, (i) => `${i}`),
                  before: null,
                },
              ]}
            />
            <Button onClick={() => take(shown)}>Apply</Button>
          </>
        )}
      </div>
    </Section>
  )
}

function saysOf(found: Found | null): string {
  if (!found) return 'Where the tone leaves a slope or a profile'
  const { length } = found.read
  const regions = length === 1 ? '1 region' : `${length} regions`
  return length === 0 ? 'Within tolerance' : `${regions} off ${found.against}`
}

/** What answers the regions, as one equaliser. @param newId of the equaliser, and of each of its bands from 1. */
function treatmentOf({ against, read }: Found, newId: (index: number) => string) {
  const bands = read.map((r) => r.region.band).filter((b) => b.db !== 0)
  const chainBands = bands.map((band, i) => newChainBand(newId(i + 1), band))
  const params = { phase: 'minimum', bands: chainBands } as const
  return {
    ...newTreatment('equaliser', newId(0), 'shape', params),
    reason: `Half the deviation from ${against}`,
  }
}

function balanceOf(own: Profile, other: Profile | null) {
  const target = other ? profileTarget(other) : slopeTarget()
  return readBalance(profileLevels(own), target, heldBands(own, other))
}
