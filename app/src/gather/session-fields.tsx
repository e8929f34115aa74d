import OutlinedInput from '@mui/material/OutlinedInput'
import { Choice } from '../controls/choice'
import { Row } from '../controls/layout'
import { useSession } from '../store/selectors'
import { useEdit } from '../store/store'

const RATES_HZ = [44100, 48000, 88200, 96000]

/** The session's name and sample rate. */
export function SessionFields({ busy }: { busy: boolean }) {
  const session = useSession()
  const edit = useEdit()
  const empty = session.tracks.length === 0 && session.references.length === 0
  return (
    <Row sx={{ p: '8px 14px', borderBottom: 1, borderColor: 'divider' }}>
      <span aria-hidden="true">Session</span>
      <OutlinedInput
        value={session.name}
        inputProps={{ 'aria-label': 'Session', maxLength: 200 }}
        sx={{ flex: '0 1 320px', minWidth: 0 }}
        onChange={(e) =>
          edit([{ kind: 'set-session', change: { name: e.target.value } }], { gesture: 'rename' })
        }
      />
      <span aria-hidden="true">Rate</span>
      <Choice
        label="Sample rate"
        value={session.sampleRateHz}
        disabled={!empty || busy}
        title={empty && !busy ? undefined : 'The sample rate is fixed once audio is imported'}
        options={[...new Set([...RATES_HZ, session.sampleRateHz])].map(
          (rate) => [rate, `${rate / 1000} kHz`] as const,
        )}
        onChange={(sampleRateHz) => edit([{ kind: 'set-session', change: { sampleRateHz } }])}
      />
    </Row>
  )
}
