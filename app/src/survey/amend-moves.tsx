import type { Session } from '@sober-prism/core/session'
import type { SessionMove } from '@sober-prism/engine'
import { BandFields } from '../equaliser/band-fields'
import { TYPE_NAMES } from '../equaliser/names'
import { FigureField } from '../figure-field'
import { signed } from '../format'
import { ownerName } from '../store/selectors'
import { MIX } from '../store/session-slice'
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
    <div className="amend">
      {moves.map(({ move, made }, index) => {
        const name = move.owner === MIX ? 'Mix' : ownerName(session, move.owner)
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: proposed moves keep their order.
          <fieldset key={index} data-out={!made}>
            <legend>
              {moves.length > 1 ? (
                <label className="switch">
                  <input
                    type="checkbox"
                    checked={made}
                    onChange={() => change(index, { made: !made })}
                  />
                  {name}
                </label>
              ) : (
                name
              )}
              {move.kind === 'band' ? `, ${TYPE_NAMES[move.band.type].toLowerCase()}` : ''}
            </legend>
            <MoveFields
              move={move}
              rateHz={session.sampleRateHz}
              onChange={(m) => change(index, { move: m })}
            />
          </fieldset>
        )
      })}
      <button type="button" className="plain" onClick={onReset}>
        As proposed
      </button>
    </div>
  )
}

function MoveFields(props: {
  readonly move: SessionMove
  readonly rateHz: number
  readonly onChange: (move: SessionMove) => void
}) {
  const { move, rateHz, onChange } = props
  if (move.kind === 'align') {
    const most = Math.round(rateHz / 10)
    return (
      <>
        <FigureField
          label="Shift"
          unit="frames"
          value={move.shiftFrames}
          limits={[-most, most]}
          format={(v) => signed(v, 0)}
          step={(v, direction, fine) => v + direction * (fine ? 1 : 5)}
          onChange={(v) => onChange({ ...move, shiftFrames: Math.round(v) })}
        />
        <label className="switch">
          <input
            type="checkbox"
            checked={move.invert}
            onChange={() => onChange({ ...move, invert: !move.invert })}
          />
          Turn the polarity
        </label>
      </>
    )
  }
  const { band } = move
  return <BandFields band={band} onChange={(v) => onChange({ ...move, band: { ...band, ...v } })} />
}
