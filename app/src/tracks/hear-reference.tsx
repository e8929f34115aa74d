import Slider from '@mui/material/Slider'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import type { Reference } from '@sober-prism/core/session'
import { sessionFrames } from '@sober-prism/core/session'
import { errorSentence, type FrequencyRange } from '@sober-prism/engine'
import { useRef } from 'react'
import { formatTime } from '../format'
import { useDesk, useHeard } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { comparedRange, hearCompared, heardReference } from './compared'
import styles from './tracks.module.css'

const RANGES: readonly (readonly [string, FrequencyRange | null])[] = [
  ['All', null],
  ['Low', { fromHz: 20, toHz: 200 }],
  ['Middle', { fromHz: 200, toHz: 2000 }],
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
      aria-label={`Hear ${name} in place of the mix`}
      title="As loud as the mix over the passage (R)"
      onClick={() => compare(isHeard ? null : id)}
    >
      Hear
    </ToggleButton>
  )
}

/** The references of a session, under its mix. */
export function ReferenceRows() {
  const { references } = useSession()
  if (references.length === 0) return null
  return (
    <>
      {references.map((reference) => (
        <div key={reference.id} className={styles.reference}>
          <Typography noWrap title={reference.name} sx={{ fontStyle: 'italic' }}>
            {reference.name}
          </Typography>
          <Typography variant="caption" color="text.secondary">
            reference
          </Typography>
          <HearReference id={reference.id} name={reference.name} />
          <PlaceInReference reference={reference} />
        </div>
      ))}
      <ComparedRange />
    </>
  )
}

/** Where in a reference one listens from, for as long as the passage lasts. */
function PlaceInReference({ reference }: { reference: Reference }) {
  const session = useSession()
  const edit = useEdit()
  const gesture = useRef('')
  const { id, name, audio, fromFrame } = reference
  const { sampleRateHz: rate, passage } = session
  const length = passage ? passage.toFrame - passage.fromFrame : sessionFrames(session)
  const over = audio.frames - length
  if (over <= 0) return null
  const from = Math.min(over, fromFrame ?? Math.floor(over / 2))
  const text = (seconds: number) =>
    `${formatTime(seconds)} to ${formatTime(seconds + length / rate)}`
  return (
    <Slider
      size="small"
      sx={{ gridColumn: '1 / -1', width: 'auto', mx: 1, py: 1 }}
      value={from / rate}
      max={over / rate}
      step={0.1}
      getAriaValueText={text}
      valueLabelDisplay="auto"
      valueLabelFormat={text}
      slotProps={{ input: { 'aria-label': `Place in ${name}` } }}
      onChange={(_, seconds) => {
        gesture.current ||= crypto.randomUUID()
        const change = { fromFrame: Math.round((seconds as number) * rate) }
        edit([{ kind: 'set-reference', reference: id, change }], { gesture: gesture.current })
      }}
      onChangeCommitted={() => {
        gesture.current = ''
      }}
    />
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
      aria-label="Range that is compared"
      className={styles.compared}
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
