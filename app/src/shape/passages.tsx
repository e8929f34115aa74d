import RemoveIcon from '@mui/icons-material/Close'
import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { IconAction } from '../controls/icon-action'
import { PlainList, Row } from '../controls/layout'
import { useSession } from '../store/selectors'
import { useEdit } from '../store/store'
import { isAt, stretchOf, timesOf } from '../transport/kept-passages'

/** The passages that are kept by name: taken, named and removed. */
export function Passages() {
  const { passage, passages, sampleRateHz } = useSession()
  const edit = useEdit()
  if (passages.length === 0) return null
  return (
    <PlainList aria-label="Saved passages">
      {passages.map((kept) => (
        <Row key={kept.id} as="li">
          <OutlinedInput
            key={kept.name}
            defaultValue={kept.name}
            sx={{ flex: 1, minWidth: 80 }}
            inputProps={{ 'aria-label': `Name of passage ${kept.name}`, maxLength: 200 }}
            onBlur={({ target }) => {
              const name = target.value.trim()
              if (name === '') target.value = kept.name
              else if (name !== kept.name) edit([{ kind: 'name-passage', passage: kept.id, name }])
            }}
          />
          <Typography variant="figure" color="textSecondary">
            {timesOf(kept, sampleRateHz)}
          </Typography>
          <Button
            variant="text"
            aria-label={`Use passage ${kept.name}`}
            disabled={isAt(kept, passage)}
            onClick={() => edit([{ kind: 'set-session', change: { passage: stretchOf(kept) } }])}
          >
            Use
          </Button>
          <IconAction
            label={`Remove passage ${kept.name}`}
            icon={<RemoveIcon />}
            onClick={() => edit([{ kind: 'remove-passage', passage: kept.id }])}
          />
        </Row>
      ))}
    </PlainList>
  )
}
