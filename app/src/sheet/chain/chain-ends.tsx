import Button from '@mui/material/Button'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import { chainOf } from '@sober-prism/core/session'
import type { Treatment } from '@sober-prism/core/treatments'
import type { PhaseCost } from '@sober-prism/engine'
import { useState } from 'react'
import { FigureField } from '../../controls/figure-field'
import { Pane } from '../../controls/layout'
import { TickBox } from '../../controls/tick-box'
import { TrimField } from '../../controls/trim-field'
import { formatDb, signed } from '../../format'
import { useDesk, useSignal } from '../../shell/desk-context'
import { nodeOf, openSession, useRouting } from '../../store/selectors'
import { useAppSelector, useEdit } from '../../store/store'

const NONE: readonly Treatment[] = []
/** Softer echoes ahead of the sound than this are not told. */
const LEAST_ECHO_DB = -120

/** What stands ahead of a chain and behind it, on one button: trim, output gain and polarity, and how late the chain is. */
export function ChainEnds({ node }: { node: string }) {
  const output = useAppSelector((root) => chainOf(openSession(root), node)?.output)
  const trimDb = useAppSelector((root) => {
    const now = openSession(root)
    return (nodeOf(now, node) ?? now.mix).trimDb
  })
  const lateness = useLateness(node)
  const edit = useEdit()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  if (!output) return null
  const { gainDb, polarity } = output
  const words = [
    ...(trimDb === 0 ? [] : [`Trim ${formatDb(trimDb)}`]),
    `Output ${formatDb(gainDb)} dB${polarity === 'inverted' ? ' ⌀' : ''}`,
    ...(lateness.ms < 0.05 ? [] : [`${lateness.ms.toFixed(1)} ms`]),
  ]
  return (
    <>
      <Button
        variant="text"
        aria-haspopup="dialog"
        title={`Trim, output and polarity. ${lateness.words}.`}
        sx={{ flex: 'none' }}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {words.join(' · ')}
      </Button>
      {anchor && (
        <Popover
          anchorEl={anchor}
          open
          onClose={() => setAnchor(null)}
          anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
          transformOrigin={{ vertical: 'top', horizontal: 'right' }}
          slotProps={{ paper: { 'aria-label': 'Trim and output', role: 'dialog' } }}
        >
          <Pane sx={{ justifyItems: 'end' }}>
            <TrimField node={node} trimDb={trimDb} />
            <FigureField
              label="Output"
              term="Output"
              name="Chain output"
              unit="dB"
              value={gainDb}
              limits={[-48, 24]}
              format={(db) => formatDb(db)}
              step={(db, direction, fine) =>
                Math.round((db + direction * (fine ? 0.1 : 0.5)) * 100) / 100
              }
              onChange={(value, gesture) =>
                edit([{ kind: 'set-chain-output', node, change: { gainDb: value } }], { gesture })
              }
            />
            <TickBox
              label="Invert polarity ⌀"
              name="Chain polarity inverted"
              checked={polarity === 'inverted'}
              onChange={(inverted) =>
                edit([
                  {
                    kind: 'set-chain-output',
                    node,
                    change: { polarity: inverted ? 'inverted' : 'normal' },
                  },
                ])
              }
            />
            <Typography variant="caption" color="textSecondary">
              {lateness.words}
            </Typography>
          </Pane>
        </Popover>
      )}
    </>
  )
}

/** How late what stands in the chain makes its sound, and how far its echoes run ahead of it. */
function useLateness(node: string): { readonly ms: number; readonly words: string } {
  // Which are on, and not their values, which change with every step of a drag.
  const ids = useAppSelector((root) =>
    (chainOf(openSession(root), node)?.treatments ?? NONE)
      .flatMap((t) => (t.on ? t.id : []))
      .join(' '),
  )
  const { sampleRateHz } = useRouting()
  const costs = useSignal(useDesk().phaseCosts)
  const own = ids.split(' ').flatMap((id) => costs.get(`${node} ${id}`) ?? [])
  const ms = latencyMs(own, sampleRateHz)
  const echo = own.reduce((most, c) => Math.max(most, c.preEchoDb ?? -200), -200)
  const latency = ms < 0.05 ? 'No latency' : `Latency ${ms.toFixed(1)} ms`
  const words = echo > LEAST_ECHO_DB ? `${latency}, pre-ringing ${signed(echo, 0)} dB` : latency
  return { ms, words }
}

function latencyMs(costs: readonly PhaseCost[], sampleRateHz: number): number {
  return (1000 * costs.reduce((sum, c) => sum + c.latencyFrames, 0)) / sampleRateHz
}
