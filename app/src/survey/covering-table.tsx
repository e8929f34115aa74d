import { useState } from 'react'
import { formatShare } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { ownerName, useSession } from '../store/selectors'
import { useSend } from '../store/store'

/** Up to this many tracks, cells have room for figures. */
const WITH_FIGURES = 9

/** Who covers whom, for all pairs: each row is a track, each column what it loses to another. */
export function CoveringTable() {
  const session = useSession()
  const { covering, heard, mono } = useAnalysis()
  const send = useSend()
  const [pointed, setPointed] = useState<readonly [string, string] | null>(null)
  const tracks = session.tracks.filter((t) => !t.mute && heard.has(t.id))
  const share = (target: string, masker: string) =>
    covering.find((c) => c.targetId === target && c.maskerId === masker)?.share ?? 0
  if (tracks.length < 2) return <p className="hint">Two tracks or more are needed.</p>
  const [target, masker] = pointed ?? ['', '']
  return (
    <div className="covering">
      <p className="hint">
        How much of each row’s loudness is lost to each column
        {mono ? ', folded to mono' : ''}, in percent. The row’s rest is heard.
      </p>
      <table data-many={tracks.length > WITH_FIGURES}>
        <thead>
          <tr>
            <td />
            {tracks.map((m) => (
              <th key={m.id} scope="col" title={m.name}>
                {m.letter}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {tracks.map((t) => (
            <tr key={t.id}>
              <th scope="row" title={t.name}>
                <button
                  type="button"
                  className="badge"
                  data-lead={session.leadIds.includes(t.id)}
                  aria-label={t.name}
                  onClick={() => send(interfaceActions.ownerChosen(t.id))}
                >
                  {t.letter}
                </button>
              </th>
              {tracks.map((m) => {
                const lost = share(t.id, m.id)
                const same = m.id === t.id
                return (
                  <td
                    key={m.id}
                    className="figure"
                    data-self={same}
                    data-pointed={t.id === target && m.id === masker}
                    style={{ '--lost': same ? 0 : Math.min(1, lost / 0.5) } as React.CSSProperties}
                    onPointerEnter={() => setPointed(same ? null : [t.id, m.id])}
                    onPointerLeave={() => setPointed(null)}
                  >
                    <span>{same ? '' : (100 * lost).toFixed(0)}</span>
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="covering-reading" aria-live="polite">
        {pointed
          ? `${ownerName(session, target)} loses ${formatShare(share(target, masker), 1)} to ${ownerName(session, masker)}.`
          : 'Point at a place to read it.'}
      </p>
      <ul>
        {tracks.map((t) => (
          <li key={t.id}>
            <span className="badge" data-lead={session.leadIds.includes(t.id)}>
              {t.letter}
            </span>
            <span className="clip">{t.name}</span>
            <span className="figure">{formatShare(heard.get(t.id)?.share ?? 0)} heard</span>
          </li>
        ))}
      </ul>
    </div>
  )
}
