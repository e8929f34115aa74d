import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { chainOf, type Preset, type PresetScope } from '@sober-prism/core/session'
import { kindOf, type Treatment } from '@sober-prism/core/treatments'
import type { KeptPreset } from '@sober-prism/engine'
import { useState } from 'react'
import { Choice } from '../../controls/choice'
import { Row } from '../../controls/layout'
import { shownTreatment, useSession } from '../../store/selectors'
import { useAppSelector } from '../../store/store'
import { STAGE_NAMES } from '../names'

interface KeepPresetProps {
  readonly node: string
  /** The preset whose name, words and tags are changed; null for a new one. */
  readonly edited: KeptPreset | null
  readonly onKeep: (preset: Preset & { id?: string }) => void
  readonly onCancel: (() => void) | null
}

/** What to save of a chain, under which name. */
export function KeepPreset({ node, edited, onKeep, onCancel }: KeepPresetProps) {
  const session = useSession()
  const stage = useAppSelector((root) => root.interface.stage)
  const bandIds = useAppSelector((root) => root.interface.alsoBands)
  const bandId = useAppSelector((root) => root.interface.bandId)
  const treatments = chainOf(session, node)?.treatments ?? []
  const shown = useAppSelector((root) => shownTreatment(treatments, root.interface))
  const bands = bandIds.length > 0 && shown ? onlyBands(shown, [bandId, ...bandIds]) : null
  const inStage = treatments.filter((t) => t.stage === stage)
  const contents: readonly (readonly [string, string, PresetScope, readonly Treatment[]])[] = [
    ...(bands ? [['bands', 'the selected bands', 'treatment', [bands]] as const] : []),
    ...(shown
      ? [['treatment', kindOf(shown.kind).name.toLowerCase(), 'treatment', [shown]] as const]
      : []),
    ...(inStage.length > 0
      ? [['stage', `all of ${STAGE_NAMES[stage]}`, 'stage', inStage] as const]
      : []),
    ...(treatments.length > 0 ? [['chain', 'the whole chain', 'chain', treatments] as const] : []),
  ]
  const [chosen, setChosen] = useState('')
  const [name, setName] = useState(edited?.name ?? '')
  const [words, setWords] = useState(edited?.words ?? '')
  const [tags, setTags] = useState(edited?.tags.join(', ') ?? '')
  if (!edited && contents.length === 0) {
    return (
      <Typography color="textSecondary">
        The chain is empty. Add a treatment to save it as a preset.
      </Typography>
    )
  }
  const [, , scope, kept] = contents.find(([key]) => key === chosen) ?? contents[0] ?? []
  const keep = () => {
    const list = tags.split(',').map((t) => t.trim().slice(0, 40))
    const described = {
      name: name.trim().slice(0, 100),
      words: words.trim().slice(0, 1000),
      tags: list.filter((t) => t !== '').slice(0, 20),
    }
    if (edited) return onKeep({ ...edited, ...described })
    if (scope && kept) onKeep({ ...described, scope, treatments: kept })
    setName('')
    setWords('')
    setTags('')
  }
  return (
    <Row
      as="form"
      sx={{ pt: '12px', borderTop: 1, borderColor: 'divider' }}
      aria-label={edited ? `Edit ${edited.name}` : 'Save as preset'}
      onSubmit={(event) => {
        event.preventDefault()
        keep()
      }}
    >
      {edited ? (
        <Typography>Edit “{edited.name}”</Typography>
      ) : (
        <Choice
          label="What to save"
          value={contents.find(([key]) => key === chosen)?.[0] ?? contents[0][0]}
          options={contents.map(([key, text]) => [key, `Save ${text}`] as const)}
          onChange={setChosen}
        />
      )}
      <OutlinedInput
        placeholder="Name"
        value={name}
        inputProps={{ 'aria-label': 'Name', maxLength: 100 }}
        onChange={(e) => setName(e.target.value)}
      />
      <OutlinedInput
        placeholder="What it is for"
        sx={{ flex: 1 }}
        value={words}
        inputProps={{ 'aria-label': 'What it is for', maxLength: 1000 }}
        onChange={(e) => setWords(e.target.value)}
      />
      <OutlinedInput
        placeholder="Tags, with commas"
        value={tags}
        inputProps={{ 'aria-label': 'Tags, with commas' }}
        onChange={(e) => setTags(e.target.value)}
      />
      <Button type="submit" disabled={name.trim() === ''}>
        Save
      </Button>
      {onCancel && (
        <Button variant="text" onClick={onCancel}>
          Cancel
        </Button>
      )}
    </Row>
  )
}

/** An equaliser with some of its bands alone. */
function onlyBands(treatment: Treatment, ids: readonly (string | null)[]): Treatment | null {
  if (treatment.kind !== 'equaliser') return null
  const bands = treatment.params.bands.filter((m) => ids.includes(m.id))
  return bands.length > 0 ? { ...treatment, params: { ...treatment.params, bands } } : null
}
