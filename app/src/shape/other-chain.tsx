import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import type { Profile } from '@sober-prism/core/match'
import {
  applyEdits,
  type Chain,
  chainOf,
  type Edit,
  presetEdits,
  sessionInVariation,
  workedIn,
} from '@sober-prism/core/session'
import { errorSentence } from '@sober-prism/engine'
import { useState } from 'react'
import { keepEdits, NO_ROOM } from '../check/keep-edits'
import { Choice } from '../controls/choice'
import { Row } from '../controls/layout'
import { READY_MADE } from '../sheet/presets/ready-made'
import { usePresets } from '../sheet/presets/use-presets'
import { useDesk, useHeard } from '../shell/desk-context'
import { AUDIO_MISSING, useWork } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { chainFigures } from './chain-figures'
import { Section } from './section'
import { PROPOSED_CHAIN } from './voice-chain'

const NO_CHAIN = 'No chain'

/** A second chain beside a node's own, of another variation or a preset: heard in its place at equal loudness, measured, and taken. */
export function OtherChain({ node }: { node: string }) {
  const session = useSession()
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const heard = useHeard()?.rendition
  const { kept } = usePresets()
  const [chosen, setChosen] = useState(NO_CHAIN)
  const [both, setBoth] = useState<Both | null>(null)
  const { busy: share, trouble, tell, run } = useWork()
  const busy = share !== null
  const name = nodeName(session, node)
  const present = chainOf(session, node)
  if (!present) return null
  const presets = [...(kept ?? []), ...READY_MADE].filter((p) => p.scope === 'chain')
  const preset = presets.find((p) => p.name === chosen) ?? null
  const worked = workedIn(session)?.id
  const variations = session.variations.list.filter((v) => v.id !== worked)
  const variation = variations.find((v) => v.id === chosen) ?? null
  const isSame = preset === null && variation === null && present.treatments.length === 0
  const edits = (): Edit[] => {
    if (variation) return [{ kind: 'take-from-variation', variation: variation.id, node }]
    const place = {
      node,
      present: present.treatments,
      stage: null,
      replaces: 'same-scope',
    } as const
    if (preset) return presetEdits(preset, place, () => crypto.randomUUID())
    const bare = { gainDb: 0, polarity: 'normal' } as const
    return [
      ...present.treatments.map(
        ({ id }): Edit => ({ kind: 'remove-treatment', node, treatment: id }),
      ),
      { kind: 'set-chain-output', node, change: bare },
    ]
  }
  const other = () =>
    variation
      ? chainOf(sessionInVariation(session, variation.id), node)
      : chainOf(applyEdits(session, edits()), node)
  const isHeard = heard?.kind === 'chain' && heard.node === node && heard.name !== PROPOSED_CHAIN
  const hear = () => {
    tell(null)
    if (isHeard) return desk.stopHearing()
    const chain = other()
    const called = variation?.name ?? preset?.name ?? 'no chain'
    const rendition = { kind: 'chain', node, name: called } as const
    if (chain) desk.hear({ ...rendition, chain }).catch((error) => tell(errorSentence(error)))
  }
  const measure = () =>
    run(async (options) => {
      const chain = other()
      const title = { name }
      const [mine, theirs] = await Promise.all([
        desk.ask.profile({ of: { node }, title }, options),
        chain && desk.ask.profile({ of: { node, chain }, title }, options),
      ])
      if (!mine || !theirs) return tell(AUDIO_MISSING)
      setBoth({ mine, theirs, of: present, beside: chosen })
    })
  const take = () => {
    edit(edits())
    dispatch(interfaceActions.noticeShown(`${name} now has the other chain.`, 'info', 'edit'))
  }
  const keepPresent = () => {
    const variationEdits = keepEdits(session, `Another chain of ${name}`)
    if (!variationEdits) return tell(NO_ROOM)
    const [first] = variationEdits
    // What stood is the one beside: work goes on in the other one.
    setChosen(worked ?? (first.kind === 'keep-variation' ? first.id : NO_CHAIN))
    edit(variationEdits)
  }
  return (
    <Section of="chains" title="Compare chains" says="Two chains at equal loudness">
      <Typography variant="body2" color="textSecondary">
        Compare 2 chains at equal loudness. Keep the current one in a variation, then change it:
        work goes on in another one, and Check compares both in full.
      </Typography>
      <Row>
        <Choice
          label="Other chain"
          value={variation?.id ?? preset?.name ?? NO_CHAIN}
          options={[
            [NO_CHAIN, NO_CHAIN] as const,
            ...variations.map((v) => [v.id, `${v.number} ${v.name}`] as const),
            ...presets.map((p) => [p.name, p.name] as const),
          ]}
          onChange={(p) => {
            setChosen(p)
            if (isHeard) desk.stopHearing()
          }}
        />
        <ToggleButton value="heard" selected={isHeard} disabled={isSame} onClick={hear}>
          Listen to the other
        </ToggleButton>
        <Button variant="text" disabled={present.treatments.length === 0} onClick={keepPresent}>
          Keep as a variation
        </Button>
      </Row>
      <Row>
        <Button
          disabled={busy || isSame}
          data-command="compare-chains"
          onClick={() => void measure()}
        >
          {busy ? 'Measuring…' : 'Measure both'}
        </Button>
        <Button variant="text" disabled={isSame} onClick={take}>
          Use the other
        </Button>
      </Row>
      {both && <Figures both={both} isOld={both.of !== present || both.beside !== chosen} />}
      <div aria-live="polite">{trouble && <Typography color="warning">{trouble}</Typography>}</div>
    </Section>
  )
}

interface Both {
  readonly mine: Profile
  readonly theirs: Profile
  /** What was measured. */
  readonly of: Chain
  readonly beside: string
}

function Figures({ both, isOld }: { both: Both; isOld: boolean }) {
  return (
    <>
      <Table size="small" aria-label="Both chains measured">
        <TableHead>
          <TableRow>
            <TableCell>Measure</TableCell> <TableCell align="right">Current</TableCell>
            <TableCell align="right">Other</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {chainFigures(both.mine, both.theirs).map(({ what, mine, theirs }) => (
            <TableRow key={what}>
              <TableCell component="th" scope="row">
                {what}
              </TableCell>
              <TableCell align="right">{mine}</TableCell>
              <TableCell align="right">{theirs}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      {isOld && (
        <Typography variant="body2" color="warning">
          Changed since this measurement.
        </Typography>
      )}
    </>
  )
}
