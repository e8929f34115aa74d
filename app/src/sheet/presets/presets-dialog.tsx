import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Chip from '@mui/material/Chip'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import List from '@mui/material/List'
import ListItem from '@mui/material/ListItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { chainOf, type Preset } from '@sober-prism/core/session'
import { kindOf } from '@sober-prism/core/treatments'
import type { KeptPreset } from '@sober-prism/engine'
import { type ReactNode, useRef, useState } from 'react'
import { Row } from '../../controls/layout'
import { interfaceActions } from '../../store/interface-slice'
import {
  chosenNode,
  chosenNodes,
  nodeName,
  shownTreatment,
  useSession,
} from '../../store/selectors'
import { useAppDispatch, useAppSelector } from '../../store/store'
import { KeepPreset } from './keep-preset'
import { READY_MADE } from './ready-made'
import { usePresets } from './use-presets'

const SCOPES = { treatment: 'one treatment', stage: 'a stage', chain: 'a whole chain' } as const

/** Treatments kept under a name: found by their words, put into the chains of what is selected, kept, and taken elsewhere as a file. */
export default function PresetsDialog() {
  const session = useSession()
  const dispatch = useAppDispatch()
  const onClose = () => void dispatch(interfaceActions.presetsSwitched(false))
  const node = useAppSelector(chosenNode)
  const count = useAppSelector((root) => chosenNodes(root).length)
  const presets = usePresets()
  const [search, setSearch] = useState('')
  const [edited, setEdited] = useState<KeptPreset | null>(null)
  const file = useRef<HTMLInputElement>(null)
  const treatments = chainOf(session, node)?.treatments ?? []
  const shown = useAppSelector((root) => shownTreatment(treatments, root.interface))
  const kept = (presets.kept ?? []).filter((p) => matches(p, search))
  const ready = READY_MADE.filter((p) => matches(p, search))
  const apply = (preset: Preset, way: 'add' | 'replace') => {
    presets.apply(preset, way)
    onClose()
  }
  const replaced = (preset: Preset) =>
    preset.scope === 'treatment'
      ? count === 1 && shown && `Replace ${kindOf(shown.kind).name.toLowerCase()}`
      : preset.scope === 'stage'
        ? 'Replace the stage'
        : 'Replace the chain'
  const actions = (preset: Preset) => (
    <>
      <Button onClick={() => apply(preset, 'add')}>Add</Button>
      {(treatments.length > 0 || count > 1) && replaced(preset) && (
        <Button variant="text" onClick={() => apply(preset, 'replace')}>
          {replaced(preset)}
        </Button>
      )}
    </>
  )
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="presets-title">
      <DialogTitle id="presets-title">
        Presets for {count > 1 ? `${count} tracks` : nodeName(session, node)}
      </DialogTitle>
      <DialogContent
        sx={{
          display: 'grid',
          gridTemplateRows: 'auto minmax(0, 1fr) auto',
          gap: '12px',
          height: 560,
        }}
      >
        <OutlinedInput
          autoFocus
          placeholder="Name, word or tag"
          value={search}
          inputProps={{ 'aria-label': 'Name, word or tag' }}
          onChange={(e) => setSearch(e.target.value)}
        />
        <Box component="section" sx={{ minHeight: 0, overflowY: 'auto' }} aria-label="Presets">
          <Typography variant="h3">Yours</Typography>
          {kept.length === 0 && (
            <Typography color="textSecondary">
              {(presets.kept ?? []).length > 0
                ? 'No preset of yours matches.'
                : 'None yet. Save the chain, a stage or a treatment below.'}
            </Typography>
          )}
          {presets.unreadable > 0 && (
            <Typography color="textSecondary">
              {presets.unreadable === 1 ? '1 preset was' : `${presets.unreadable} presets were`}{' '}
              made by another version and cannot be read here. Nothing is lost.
            </Typography>
          )}
          <List disablePadding>
            {kept.map((preset) => (
              <PresetItem key={preset.id} preset={preset}>
                {actions(preset)}
                <Button variant="text" onClick={() => setEdited(preset)}>
                  Edit…
                </Button>
                <Button variant="text" onClick={() => presets.exportFile([preset], preset.name)}>
                  Export
                </Button>
                <Button variant="text" onClick={() => void presets.remove(preset)}>
                  Delete
                </Button>
              </PresetItem>
            ))}
          </List>
          <Typography variant="h3">Places to begin</Typography>
          <List disablePadding>
            {ready.map((preset) => (
              <PresetItem key={preset.name} preset={preset}>
                {actions(preset)}
              </PresetItem>
            ))}
          </List>
        </Box>
        <KeepPreset
          key={edited?.id ?? 'new'}
          node={node}
          edited={edited}
          onKeep={(preset) => {
            void presets.keep(preset)
            setEdited(null)
          }}
          onCancel={edited ? () => setEdited(null) : null}
        />
      </DialogContent>
      <DialogActions>
        <input
          ref={file}
          type="file"
          accept=".json"
          hidden
          aria-label="Preset file"
          onChange={({ target }) => {
            const [first] = target.files ?? []
            if (first) void presets.importFile(first)
            target.value = ''
          }}
        />
        <Button variant="text" onClick={() => file.current?.click()}>
          Import…
        </Button>
        <Button
          variant="text"
          disabled={(presets.kept ?? []).length === 0}
          onClick={() => presets.exportFile(presets.kept ?? [], 'all')}
        >
          Export all
        </Button>
        <Button variant="contained" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  )
}

function PresetItem({ preset, children }: { preset: Preset; children: ReactNode }) {
  const { name, words, tags, scope, treatments } = preset
  const does = treatments.map((t) => kindOf(t.kind).describe(t.params)).join('; ')
  return (
    <ListItem
      divider
      disableGutters
      sx={{ alignItems: 'start', gap: '12px', '& > :first-of-type': { flex: 1, minWidth: 0 } }}
    >
      <div>
        <Typography>
          <strong>{name}</strong>{' '}
          <Typography component="span" variant="caption" color="textSecondary">
            {SCOPES[scope]}: {does}
          </Typography>
        </Typography>
        {words && <Typography variant="body2">{words}</Typography>}
        <Row sx={{ gap: '4px' }}>
          {tags.map((tag) => (
            <Chip
              key={tag}
              size="small"
              variant="outlined"
              label={tag}
              sx={{ borderRadius: 0, height: 20 }}
            />
          ))}
        </Row>
      </div>
      <Row sx={{ gap: '4px' }}>{children}</Row>
    </ListItem>
  )
}

function matches({ name, words, tags }: Preset, search: string): boolean {
  const text = [name, words, ...tags].join(' ').toLowerCase()
  return search
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}
