import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { Column } from '../controls/layout'
import { formatDay } from '../format'
import { openSession } from '../store/selectors'
import { useAppSelector, useEdit } from '../store/store'
import type { ComparedState } from './use-states'

const timeOf = (date: Date) =>
  new Intl.DateTimeFormat('en', { hour: '2-digit', minute: '2-digit', hour12: false }).format(date)

/** When a variation was kept, and a note to it; nothing of a state that is none. */
export function VariationNote({ state }: { state: ComparedState }) {
  const edit = useEdit()
  const variation = useAppSelector((root) =>
    openSession(root).variations.list.find((v) => v.id === state.id),
  )
  if (!variation) return null
  const kept = new Date(variation.keptAt)
  return (
    <Column>
      <Typography variant="body2" color="textSecondary">
        {state.sign} {variation.name}, kept on {formatDay(kept)} at {timeOf(kept)}
      </Typography>
      <OutlinedInput
        fullWidth
        multiline
        maxRows={4}
        sx={{ p: 0 }}
        placeholder="Note"
        value={variation.note}
        inputProps={{ 'aria-label': `Note to variation ${state.sign}`, maxLength: 2000 }}
        onChange={(e) =>
          edit([{ kind: 'set-variation', variation: state.id, change: { note: e.target.value } }], {
            gesture: `note ${state.id}`,
          })
        }
      />
    </Column>
  )
}
