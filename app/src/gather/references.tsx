import AddIcon from '@mui/icons-material/Add'
import RemoveIcon from '@mui/icons-material/Close'
import Button from '@mui/material/Button'
import List from '@mui/material/List'
import ListItem from '@mui/material/ListItem'
import ListItemText from '@mui/material/ListItemText'
import Typography from '@mui/material/Typography'
import { useDropzone } from 'react-dropzone'
import { EmptyPlace } from '../controls/empty-place'
import { IconAction } from '../controls/icon-action'
import { Entry, Row } from '../controls/layout'
import { formatTime } from '../format'
import { useOpenSession } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'

/** Finished recordings that stand beside the mix. */
export function References() {
  const session = useSession()
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const { imports } = useOpenSession()
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    onDrop: (dropped) => void imports.bring(dropped, 'references'),
    noClick: true,
    noKeyboard: true,
  })
  return (
    <Entry
      as="section"
      {...getRootProps({ role: 'region' })}
      data-drag={isDragActive}
      aria-label="References"
    >
      <input {...getInputProps()} aria-label="Reference files" data-testid="reference-files" />
      <Row as="header" sx={{ justifyContent: 'space-between' }}>
        <Typography variant="h2">References</Typography>
        <Button startIcon={<AddIcon />} data-command="import-references" onClick={open}>
          Add references…
        </Button>
      </Row>
      {session.references.length === 0 && (
        <EmptyPlace text="Drop finished recordings here. They appear beside the mix, loudness-matched, and are never rendered." />
      )}
      <List dense disablePadding>
        {session.references.map(({ id, name, audio }) => (
          <ListItem
            key={id}
            disableGutters
            divider
            secondaryAction={
              <IconAction
                label={`Remove ${name}`}
                icon={<RemoveIcon />}
                onClick={() => {
                  edit([{ kind: 'remove-reference', reference: id }])
                  dispatch(interfaceActions.noticeShown(`${name} removed.`, 'info', 'edit'))
                }}
              />
            }
          >
            <ListItemText slotProps={{ primary: { noWrap: true, title: name } }}>
              {name}
            </ListItemText>
            <Typography variant="figure" sx={{ mr: 2 }}>
              {formatTime(audio.frames / session.sampleRateHz)}
            </Typography>
          </ListItem>
        ))}
      </List>
    </Entry>
  )
}
