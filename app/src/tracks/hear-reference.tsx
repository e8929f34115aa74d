import RestartAltIcon from '@mui/icons-material/RestartAlt'
import Box from '@mui/material/Box'
import Slider from '@mui/material/Slider'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import type { Reference } from '@sober-prism/core/session'
import { referencePassage } from '@sober-prism/core/session'
import { errorSentence, type FrequencyRange } from '@sober-prism/engine'
import { useRef, useState } from 'react'
import { FigureField } from '../controls/figure-field'
import { IconAction } from '../controls/icon-action'
import { formatTime } from '../format'
import { useDesk, useHeard } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useRouting } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { comparedRange, hearCompared, heardReference } from './compared'

/** Less than this is no passage to listen to in a loop. */
const SHORTEST_SECONDS = 0.5

const RANGES: readonly (readonly [string, FrequencyRange | null])[] = [
  ['All', null],
  ['Low', { fromHz: 20, toHz: 200 }],
  ['Mids', { fromHz: 200, toHz: 2000 }],
  ['High', { fromHz: 2000, toHz: 20_000 }],
]

function useCompare() {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  return (reference: string | null, range?: FrequencyRange | null) =>
    void hearCompared(desk, reference, range).catch((error) =>
      dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')),
    )
}

/** Lets a reference be heard in place of the mix, as loud as it. */
export function HearReference({ id, name }: { id: string; name: string }) {
  const compare = useCompare()
  const isHeard = heardReference(useHeard()?.rendition) === id
  return (
    <ToggleButton
      value={id}
      selected={isHeard}
      aria-label={`Listen to ${name} in place of the mix`}
      title="Loudness-matched to the mix (R)"
      onClick={() => compare(isHeard ? null : id)}
    >
      Listen
    </ToggleButton>
  )
}

/** The references of a session, under its mix, and how the one is listened to that was heard last. */
export function ReferenceRows() {
  const { references } = useRouting()
  const heard = heardReference(useHeard()?.rendition)
  const [last, setLast] = useState(heard)
  if (heard !== null && heard !== last) setLast(heard)
  const shown = references.find((r) => r.id === last) ?? references[0]
  if (!shown) return null
  return (
    <>
      <Box
        sx={{
          flex: '0 1 auto',
          minHeight: 32,
          maxHeight: '30%',
          overflow: 'hidden auto',
          scrollbarWidth: 'thin',
        }}
      >
        {references.map((reference) => (
          <Box
            key={reference.id}
            sx={{
              display: 'grid',
              gridTemplateColumns: 'minmax(0, 1fr) auto',
              alignItems: 'center',
              gap: '8px',
              p: '3px 4px 3px 17px',
              borderLeft: '3px solid transparent',
              '&[data-shown="true"]': { borderLeftColor: 'primary.main' },
            }}
            data-shown={references.length > 1 && reference === shown}
          >
            <Typography noWrap title={`Reference: ${reference.name}`} sx={{ fontStyle: 'italic' }}>
              {reference.name}
            </Typography>
            <HearReference id={reference.id} name={reference.name} />
          </Box>
        ))}
      </Box>
      <PassageOfReference key={shown.id} reference={shown} />
      <ComparedRange />
    </>
  )
}

/** What of a reference is listened to: its place, and how long it is. */
function PassageOfReference({ reference }: { reference: Reference }) {
  const session = useRouting()
  const edit = useEdit()
  const dragged = useRef('')
  const { id, name, audio, passage } = reference
  const { sampleRateHz: rate } = session
  const { fromFrame: from, toFrame: to } = referencePassage(session, reference)
  const whole = audio.frames / rate
  const seconds = (to - from) / rate
  const take = (fromFrame: number, length: number, gesture?: string) => {
    const start = Math.max(0, Math.min(audio.frames - length, fromFrame))
    const change = { passage: { fromFrame: start, toFrame: start + length } }
    edit([{ kind: 'set-reference', reference: id, change }], { gesture })
  }
  const text = (start: number) => `${formatTime(start)} to ${formatTime(start + seconds)}`
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(40px, 1fr) auto auto',
        alignItems: 'center',
        gap: '10px',
        p: '2px 4px 2px 24px',
      }}
    >
      <Slider
        size="small"
        disabled={from === 0 && to === audio.frames}
        value={from / rate}
        max={Math.max(0.1, whole - seconds)}
        step={0.1}
        getAriaValueText={text}
        valueLabelDisplay="auto"
        valueLabelFormat={text}
        slotProps={{ input: { 'aria-label': `Start in ${name}` } }}
        onChange={(_, start) => {
          dragged.current ||= crypto.randomUUID()
          take(Math.round((start as number) * rate), to - from, dragged.current)
        }}
        onChangeCommitted={() => {
          dragged.current = ''
        }}
      />
      <FigureField
        label={`Length in ${name}`}
        showLabel={false}
        unit="s"
        value={seconds}
        limits={[Math.min(SHORTEST_SECONDS, whole), whole]}
        format={(v) => v.toFixed(1)}
        step={(v, direction, fine) => v + direction * (fine ? 0.1 : 1)}
        characters={5}
        onChange={(v, gesture) =>
          take(from, Math.min(audio.frames, Math.round(v * rate)), gesture && `${gesture} ${id}`)
        }
      />
      <IconAction
        label={`${name} as long as the passage`}
        icon={<RestartAltIcon fontSize="small" />}
        disabled={passage === null}
        onClick={() => edit([{ kind: 'set-reference', reference: id, change: { passage: null } }])}
      />
    </Box>
  )
}

/** What of the mix and of the references is compared. */
function ComparedRange() {
  const compare = useCompare()
  const rendition = useHeard()?.rendition
  const range = comparedRange(rendition)
  const chosen = RANGES.find(([, r]) => r?.fromHz === range?.fromHz)?.[0] ?? 'All'
  return (
    <ToggleButtonGroup
      exclusive
      value={chosen}
      aria-label="Range compared"
      sx={{ m: '2px 4px 4px 47px' }}
      onChange={(_, name: string | null) => {
        const found = RANGES.find(([n]) => n === name)
        if (found) compare(heardReference(rendition), found[1])
      }}
    >
      {RANGES.map(([name, r]) => (
        <ToggleButton
          key={name}
          value={name}
          title={
            r
              ? `Only ${r.fromHz} to ${r.toHz} Hz of the mix or the reference`
              : 'All of the mix or the reference'
          }
        >
          {name}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  )
}
