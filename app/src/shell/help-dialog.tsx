import CloseIcon from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import List from '@mui/material/List'
import ListItemButton from '@mui/material/ListItemButton'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { useRef, useState } from 'react'
import Markdown, { type Components } from 'react-markdown'
import { useLocation } from 'react-router'
import { IconAction } from '../controls/icon-action'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'
import { found, HELP, type HelpSection, sectionFor } from './help-pages'

const TEXT = {
  overflowY: 'auto',
  pr: '6px',
  '& h2': { m: '0 0 6px', fontSize: 17 },
  '& p, & li': { m: '0 0 8px', lineHeight: 1.5 },
  '& ul, & ol': { pl: '20px', listStyle: 'revert' },
  '& code': { fontFamily: '"Source Code Pro", monospace', fontSize: 13 },
}

/** Text and nothing that leads away: other files of the documentation are named, not opened. */
const PLAIN: Components = { a: ({ children }) => <em>{children}</em>, img: () => null }

/** The documentation as it is shipped, open at what is about the step in view, and searched by words. */
export default function HelpDialog() {
  const dispatch = useAppDispatch()
  const step = useLocation().pathname.split('/').at(-1) ?? ''
  const [query, setQuery] = useState('')
  const [chosen, setChosen] = useState<HelpSection>(HELP[sectionFor(step)])
  const text = useRef<HTMLDivElement>(null)
  const list = found(query)
  const shown = list.includes(chosen) ? chosen : list[0]
  const close = () => void dispatch(interfaceActions.helpSwitched(false))
  const open = (section: HelpSection) => {
    setChosen(section)
    text.current?.scrollTo(0, 0)
  }
  return (
    <Dialog open onClose={close} fullWidth maxWidth="md" aria-labelledby="help-title">
      <DialogTitle
        id="help-title"
        sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center' }}
      >
        Help
        <IconAction label="Close help" icon={<CloseIcon />} onClick={close} />
      </DialogTitle>
      <DialogContent
        sx={{
          display: 'grid',
          gridTemplate: 'auto minmax(0, 1fr) / 240px minmax(0, 1fr)',
          gap: '8px 18px',
          height: 560,
        }}
      >
        <TextField
          autoFocus
          label="Search"
          value={query}
          sx={{ gridColumn: '1 / -1', mt: 1 }}
          onChange={(e) => setQuery(e.target.value)}
        />
        <List dense component="nav" aria-label="Sections" sx={{ overflowY: 'auto', py: 0 }}>
          {list.map((section) => (
            <ListItemButton
              key={`${section.page} ${section.title}`}
              selected={section === shown}
              sx={{ py: '1px', pl: section.level === 3 ? '20px' : '8px' }}
              onClick={() => open(section)}
            >
              <Typography noWrap title={section.title}>
                {section.title}
              </Typography>
            </ListItemButton>
          ))}
        </List>
        <Box ref={text} role="region" aria-label="Text" tabIndex={0} sx={TEXT}>
          {shown ? (
            <>
              <h2>{shown.title}</h2>
              <Markdown components={PLAIN}>{shown.text}</Markdown>
            </>
          ) : (
            <Typography color="textSecondary">Nothing in the help holds these words.</Typography>
          )}
        </Box>
      </DialogContent>
    </Dialog>
  )
}
