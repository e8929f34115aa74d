import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import type { Edit, Session } from '@sober-prism/core/session'
import { kindOf, MIX } from '@sober-prism/core/treatments'
import { Column, Fields } from '../controls/layout'
import { TickBox } from '../controls/tick-box'
import { BandFields } from '../sheet/bands/band-fields'
import { KindEditor } from '../sheet/chain/treatment-editor'
import { TYPE_NAMES } from '../sheet/names'
import { nodeName } from '../store/selectors'
import type { AmendedMove } from './use-amended'

interface AmendMovesProps {
  readonly moves: readonly AmendedMove[]
  readonly session: Session
  readonly onChange: (moves: readonly AmendedMove[]) => void
  readonly onReset: () => void
}

/** The proposed moves with their values, to be changed before they are made. */
export function AmendMoves({ moves, session, onChange, onReset }: AmendMovesProps) {
  const change = (index: number, to: Partial<AmendedMove>) =>
    onChange(moves.map((m, i) => (i === index ? { ...m, ...to } : m)))
  return (
    <Column sx={{ gap: '8px', justifyItems: 'start' }}>
      {moves.map(({ move, made }, index) => {
        const name = nodeName(session, 'node' in move ? move.node : MIX)
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: proposed moves keep their order.
          <Fields key={index} data-out={!made}>
            <Box component="legend" sx={{ display: 'flex', alignItems: 'center', p: '0 0 3px' }}>
              {moves.length > 1 ? (
                <TickBox
                  label={name}
                  checked={made}
                  onChange={(on) => change(index, { made: on })}
                />
              ) : (
                name
              )}
              {kindWords(move)}
            </Box>
            <MoveFields move={move} onChange={(m) => change(index, { move: m })} />
          </Fields>
        )
      })}
      <Button variant="text" onClick={onReset}>
        Reset
      </Button>
    </Column>
  )
}

function kindWords(move: Edit): string {
  if (move.kind === 'add-band') return `, ${TYPE_NAMES[move.chainBand.band.type].toLowerCase()}`
  return move.kind === 'add-treatment' ? `, ${kindOf(move.treatment.kind).name.toLowerCase()}` : ''
}

function MoveFields({ move, onChange }: { move: Edit; onChange: (move: Edit) => void }) {
  if (move.kind === 'add-treatment') {
    const { node, treatment } = move
    return (
      <KindEditor
        node={node}
        treatment={treatment}
        onChange={(params) =>
          onChange({ ...move, treatment: { ...treatment, params } as typeof treatment })
        }
      />
    )
  }
  if (move.kind !== 'add-band') return null
  const { chainBand } = move
  return (
    <BandFields
      band={chainBand.band}
      onChange={(v) =>
        onChange({ ...move, chainBand: { ...chainBand, band: { ...chainBand.band, ...v } } })
      }
    />
  )
}
