import Autocomplete from '@mui/material/Autocomplete'
import Box from '@mui/material/Box'
import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import type { PopperProps } from '@mui/material/Popper'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableRow from '@mui/material/TableRow'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { TickBox } from '../controls/tick-box'
import { meaningOf, WORDS, type Word } from '../controls/words'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch, useAppSelector } from '../store/store'
import { type Command, keyText, PLACE_KEYS } from './commands'

const ALL_WORDS = Object.keys(WORDS) as Word[]

/** The list stands in the dialog itself. */
function Inline({ children }: PopperProps) {
  return <div>{typeof children === 'function' ? null : children}</div>
}

/** Everything that can be done here, to be searched by its words and run; with its key. */
export default function CommandsDialog({ commands }: { commands: readonly Command[] }) {
  const dispatch = useAppDispatch()
  const open = useAppSelector((root) => root.interface.commandsOpen)
  const plainKeys = useAppSelector((root) => root.interface.plainKeys)
  const close = () => void dispatch(interfaceActions.commandsSwitched(false))
  return (
    <Dialog open={open} onClose={close} fullWidth maxWidth="sm" aria-labelledby="commands-title">
      <DialogTitle id="commands-title">Find a command</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1.5, minHeight: 420, alignContent: 'start' }}>
        <Autocomplete
          open
          slots={{ popper: Inline }}
          autoHighlight
          value={null}
          options={commands}
          groupBy={({ group }) => group}
          getOptionLabel={({ name }) => name}
          getOptionKey={({ name }) => name}
          noOptionsText="No matching command."
          slotProps={{ listbox: { sx: { height: 300 } }, paper: { sx: { border: 0 } } }}
          onClose={(_, reason) => reason === 'escape' && close()}
          onChange={(_, command) => {
            if (!command) return
            close()
            command.run()
          }}
          renderInput={(params) => (
            <TextField {...params} autoFocus label="Command" sx={{ mt: 1 }} />
          )}
          renderGroup={({ key, group, children }) => (
            <Box key={key} role="group" aria-label={group}>
              <Typography aria-hidden variant="h3" sx={{ p: '8px 12px 2px' }}>
                {group}
              </Typography>
              <Box component="ul" role="presentation" sx={{ p: 0, listStyle: 'none' }}>
                {children}
              </Box>
            </Box>
          )}
          renderOption={({ key, ...props }, { name, key: shortcut }) => (
            <li key={key} {...props}>
              <span>{name}</span>
              {shortcut && (
                <Typography variant="figure" sx={{ ml: 'auto', color: 'text.secondary' }}>
                  {keyText(shortcut)}
                </Typography>
              )}
            </li>
          )}
        />
        <Typography variant="h3">Keyboard shortcuts</Typography>
        <Table aria-label="Keyboard shortcuts">
          <TableBody>
            {PLACE_KEYS.map(([key, does]) => (
              <TableRow key={key}>
                <TableCell component="th" scope="row">
                  {key}
                </TableCell>
                <TableCell>{does}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
        <Typography variant="h3">Words</Typography>
        <Table aria-label="Words">
          <TableBody>
            {ALL_WORDS.map((word) => (
              <TableRow key={word}>
                <TableCell component="th" scope="row">
                  {word}
                </TableCell>
                <TableCell>{meaningOf(word)}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
        <TickBox
          label="Single-key shortcuts"
          checked={plainKeys}
          onChange={() => dispatch(interfaceActions.plainKeysSwitched())}
        />
      </DialogContent>
    </Dialog>
  )
}
