import { formatDb } from '../format'
import { useEdit } from '../store/store'
import { FigureField } from './figure-field'

interface TrimFieldProps {
  readonly node: string
  readonly trimDb: number
  readonly label?: string
  readonly showLabel?: boolean
}

/** The gain ahead of a node's chain, to be typed; no comparison takes it away. */
export function TrimField({ node, trimDb, label = 'Trim', showLabel = true }: TrimFieldProps) {
  const edit = useEdit()
  return (
    <FigureField
      label={label}
      showLabel={showLabel}
      term="Trim"
      unit={showLabel ? 'dB' : undefined}
      value={trimDb}
      limits={[-48, 24]}
      format={(db) => formatDb(db)}
      step={(db, direction, fine) => Math.round((db + direction * (fine ? 0.1 : 0.5)) * 100) / 100}
      onChange={(value, gesture) =>
        edit([{ kind: 'set-node', node, change: { trimDb: value } }], { gesture })
      }
    />
  )
}
