import { sessionFrames } from '@sober-prism/core/session'
import type { RenderChoice } from '@sober-prism/engine'
import { useState } from 'react'
import { formatTime, signed } from '../format'
import { useOpenSession, useSignal } from '../shell/desk-context'
import { useSession } from '../store/selectors'
import { download } from './download'

type Bits = RenderChoice['bits']

/** Render the mix and the treated tracks; save the session. */
export function DeliverPage() {
  const session = useSession()
  const [bits, setBits] = useState<Bits>(24)
  const [mix, setMix] = useState(true)
  const [tracks, setTracks] = useState(false)
  const [groups, setGroups] = useState(false)
  const { desk, deliver } = useOpenSession()
  const work = useSignal(deliver.work)
  const files = useSignal(deliver.files)
  const render = () => void deliver.render(session, { mix, tracks, groups, bits }, desk)
  const save = (withAudio: boolean) => void deliver.save(session, withAudio)
  const seconds = sessionFrames(session) / session.sampleRateHz
  const empty = session.tracks.length === 0
  return (
    <main className="deliver">
      <section aria-labelledby="render-title">
        <h2 id="render-title">Render</h2>
        <p className="hint">
          The whole session, {formatTime(seconds)} at {session.sampleRateHz / 1000} kHz. Mutes
          count; solo, lift and mono are for listening only. Tracks are rendered through their
          chains, before fader and pan; groups behind theirs. Several files come as one zip.
        </p>
        <fieldset disabled={!!work || empty}>
          <legend className="visually-hidden">What to render</legend>
          <label className="switch">
            <input type="checkbox" checked={mix} onChange={(e) => setMix(e.target.checked)} />
            The mix
          </label>
          <label className="switch">
            <input type="checkbox" checked={tracks} onChange={(e) => setTracks(e.target.checked)} />
            Each treated track ({session.tracks.length})
          </label>
          {session.groups.length > 0 && (
            <label className="switch">
              <input
                type="checkbox"
                checked={groups}
                onChange={(e) => setGroups(e.target.checked)}
              />
              Each group as a stem ({session.groups.length})
            </label>
          )}
          <label className="switch">
            <input type="radio" name="bits" checked={bits === 24} onChange={() => setBits(24)} />
            WAV, 24 bit, dithered
          </label>
          <label className="switch">
            <input
              type="radio"
              name="bits"
              checked={bits === '32f'}
              onChange={() => setBits('32f')}
            />
            WAV, 32 bit float
          </label>
          <button
            type="button"
            className="primary"
            disabled={!mix && !tracks && !groups}
            onClick={render}
          >
            Render
          </button>
        </fieldset>
        {files.length > 0 && (
          <table className="rendered">
            <caption className="visually-hidden">Rendered files</caption>
            <thead>
              <tr>
                <th scope="col">File</th>
                <th scope="col">LUFS</th>
                <th scope="col">dBTP</th>
                <th scope="col">
                  <span className="visually-hidden">Save</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {files.map((file) => (
                <tr key={file.name}>
                  <td>{file.name}</td>
                  <td className="figure">{file.lufs === null ? '–' : signed(file.lufs)}</td>
                  <td className="figure" data-over={(file.truePeakDbtp ?? -1) > 0}>
                    {file.truePeakDbtp === null ? '–' : signed(file.truePeakDbtp)}
                  </td>
                  <td>
                    <button
                      type="button"
                      className="plain"
                      onClick={() => download(file.name, file.blob)}
                    >
                      Save
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {files.some((f) => (f.truePeakDbtp ?? -1) > 0) && (
          <p className="problem">
            A true peak stands above 0 dBTP.{' '}
            {bits === 24
              ? 'Samples over full scale are clipped at 24 bit'
              : 'Float keeps it, later integer steps will not'}
            ; lower the mix by its output trim.
          </p>
        )}
      </section>
      <section aria-labelledby="save-title">
        <h2 id="save-title">Save the session</h2>
        <p className="hint">
          One file that opens elsewhere. With audio it holds everything; without, it needs the same
          audio in the other browser.
        </p>
        <div className="actions">
          <button type="button" disabled={!!work} onClick={() => save(true)}>
            Save with audio
          </button>
          <button type="button" disabled={!!work} onClick={() => save(false)}>
            Save without audio
          </button>
        </div>
      </section>
    </main>
  )
}
