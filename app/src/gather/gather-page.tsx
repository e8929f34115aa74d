import { useDropzone } from 'react-dropzone'
import { formatTime } from '../format'
import { useOpenSession, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useEdit, useSend } from '../store/store'
import { GroupTable } from './group-table'
import { ImportList } from './import-list'
import { TrackTable } from './track-table'

const RATES_HZ = [44100, 48000, 88200, 96000]

/** Bring in tracks and references, name them, set their roles and levels. */
export function GatherPage() {
  const session = useSession()
  const send = useSend()
  const edit = useEdit()
  const { imports } = useOpenSession()
  const files = useSignal(imports.files)
  const busy = files.some((f) => f.state.kind === 'waiting' || f.state.kind === 'busy')
  const tracksDrop = useDropzone({
    onDrop: (dropped) => void imports.bring(dropped, 'tracks'),
    noClick: true,
    noKeyboard: true,
  })
  const referencesDrop = useDropzone({
    onDrop: (dropped) => void imports.bring(dropped, 'references'),
    noClick: true,
    noKeyboard: true,
  })
  const empty = session.tracks.length === 0 && session.references.length === 0
  return (
    <main className="gather">
      <div className="gather-head">
        <label>
          Session
          <input
            type="text"
            className="name-input"
            maxLength={200}
            value={session.name}
            onChange={(e) =>
              edit([{ kind: 'set-session', change: { name: e.target.value } }], {
                gesture: 'rename',
              })
            }
          />
        </label>
        <label>
          Rate
          <select
            disabled={!empty || busy}
            title={empty && !busy ? undefined : 'The rate is fixed once audio is brought in'}
            value={session.sampleRateHz}
            onChange={(e) =>
              edit([{ kind: 'set-session', change: { sampleRateHz: Number(e.target.value) } }])
            }
          >
            {[...new Set([...RATES_HZ, session.sampleRateHz])].map((rate) => (
              <option key={rate} value={rate}>
                {rate / 1000} kHz
              </option>
            ))}
          </select>
        </label>
      </div>
      <div className="gather-columns">
        <section
          {...tracksDrop.getRootProps({ className: 'drop', role: 'region' })}
          data-drag={tracksDrop.isDragActive}
          aria-label="Tracks"
        >
          <input
            {...tracksDrop.getInputProps()}
            aria-label="Track files"
            data-testid="track-files"
          />
          <header>
            <h2>Tracks</h2>
            <button type="button" className="primary" onClick={tracksDrop.open}>
              Add tracks …
            </button>
          </header>
          <ImportList
            files={files}
            busy={busy}
            onCancel={() => imports.cancel()}
            onClear={() => imports.clear()}
          />
          {session.tracks.length === 0 ? (
            <p className="drop-hint">
              Drop the tracks of a piece here: WAV, AIFF, FLAC, MP3, Ogg or M4A, mono or stereo, or
              a zip of them. Files with a time stamp are placed by it; the others start together.
            </p>
          ) : (
            <>
              <TrackTable />
              <GroupTable />
            </>
          )}
        </section>
        <section
          {...referencesDrop.getRootProps({ className: 'drop', role: 'region' })}
          data-drag={referencesDrop.isDragActive}
          aria-label="References"
        >
          <input
            {...referencesDrop.getInputProps()}
            aria-label="Reference files"
            data-testid="reference-files"
          />
          <header>
            <h2>References</h2>
            <button type="button" onClick={referencesDrop.open}>
              Add references …
            </button>
          </header>
          {session.references.length === 0 && (
            <p className="drop-hint">
              Drop finished recordings you trust here. They stand beside the mix on the ruler, at
              equal loudness, and are never part of it.
            </p>
          )}
          <ul className="reference-list">
            {session.references.map((reference) => (
              <li key={reference.id}>
                <span className="clip" title={reference.name}>
                  {reference.name}
                </span>
                <span className="figure">
                  {formatTime(reference.audio.frames / session.sampleRateHz)}
                </span>
                <button
                  type="button"
                  className="plain"
                  aria-label={`Remove ${reference.name}`}
                  onClick={() => {
                    edit([{ kind: 'remove-reference', reference: reference.id }])
                    send(interfaceActions.noticeShown(`${reference.name} removed.`, 'info', 'edit'))
                  }}
                >
                  Remove
                </button>
              </li>
            ))}
          </ul>
        </section>
      </div>
    </main>
  )
}
