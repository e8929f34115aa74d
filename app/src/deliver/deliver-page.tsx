import { sessionFrames } from '@sober-prism/core/session'
import {
  bundleFiles,
  errorSentence,
  fileName,
  isCancel,
  packSession,
  type RenderChoice,
  type RenderedFile,
  renderSession,
} from '@sober-prism/engine'
import { useEffect, useRef, useState } from 'react'
import { formatTime, signed } from '../format'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useSend } from '../store/store'
import { download } from './download'

type Bits = RenderChoice['bits']

/** Render the mix and the treated tracks; save the session. */
export function DeliverPage() {
  const session = useSession()
  const desk = useDesk()
  const send = useSend()
  const [bits, setBits] = useState<Bits>(24)
  const [mix, setMix] = useState(true)
  const [tracks, setTracks] = useState(false)
  const [groups, setGroups] = useState(false)
  const [work, setWork] = useState<{ what: string; share: number } | null>(null)
  const [files, setFiles] = useState<readonly RenderedFile[]>([])
  const running = useRef<AbortController | null>(null)
  useEffect(() => () => running.current?.abort(), [])

  const busy = async (
    what: string,
    job: (signal: AbortSignal, show: (what: string, share: number) => void) => Promise<void>,
  ) => {
    const controller = new AbortController()
    running.current = controller
    setWork({ what, share: 0 })
    try {
      await job(controller.signal, (step, share) => setWork({ what: step, share }))
    } catch (error) {
      if (!isCancel(error)) {
        send(interfaceActions.noticeShown(errorSentence(error), 'warning'))
      }
    } finally {
      setWork(null)
    }
  }
  const render = () =>
    busy('Rendering', async (signal, show) => {
      setFiles([])
      const choice = { mix, tracks, groups, bits }
      const made = await renderSession(session, choice, desk.pool, show, signal, desk.shelf)
      setFiles(made)
      if (made.length === 1) return download(made[0].name, made[0].blob)
      // Browsers stop at about ten files that come by themselves: many come as one.
      const bundle = await bundleFiles(made, {
        signal,
        onProgress: (_, share) => show('Putting the files into one zip', share),
      })
      download(`${fileName(session.name)}.zip`, bundle)
    })
  const save = (withAudio: boolean) =>
    busy('Saving the session', async (signal, show) => {
      const blob = await packSession(session, withAudio, {
        signal,
        onProgress: (_, share) => show('Saving the session', share),
      })
      download(`${fileName(session.name)}.prism`, blob)
    })
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
            onClick={() => void render()}
          >
            Render
          </button>
        </fieldset>
        <div className="busy-row" aria-live="polite">
          {work && (
            <>
              <span>{work.what}</span>
              <progress value={work.share} max={1} aria-label={work.what} />
              <button
                type="button"
                onClick={() => running.current?.abort(new DOMException('Cancelled.', 'AbortError'))}
              >
                Cancel
              </button>
            </>
          )}
        </div>
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
          <button type="button" disabled={!!work} onClick={() => void save(true)}>
            Save with audio
          </button>
          <button type="button" disabled={!!work} onClick={() => void save(false)}>
            Save without audio
          </button>
        </div>
      </section>
    </main>
  )
}
