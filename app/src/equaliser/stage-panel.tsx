import { type Chain, PHASE_NAMES, STAGES } from '@sober-prism/core/session'
import type { PhaseCost } from '@sober-prism/engine'
import { useSyncExternalStore } from 'react'
import { FigureField } from '../figure-field'
import { formatDb, signed } from '../format'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenOwner, ownerName, trackOf, useSession } from '../store/selectors'
import { chainOf, MIX, sessionActions } from '../store/session-slice'
import { useRoot, useSend } from '../store/store'
import { STAGE_NAMES } from './names'

/** Whose chain it is, how it is listened to, and its stages in the order in which sound passes them. */
export function StagePanel() {
  const session = useSession()
  const owner = useRoot(chosenOwner)
  const stage = useRoot((root) => root.interface.stage)
  const send = useSend()
  const track = trackOf(session, owner)
  const chain = chainOf(session, owner)
  const { phaseCosts } = useDesk()
  const cost = useSyncExternalStore(phaseCosts.watch, phaseCosts.read).get(owner)
  if (!chain) return null
  const toggle = (key: 'mute' | 'solo' | 'lift') => {
    if (!track) return
    send(
      sessionActions.trackChanged(
        { id: track.id, change: { [key]: !track[key] } },
        { listening: key !== 'mute' },
      ),
    )
  }
  return (
    <section className="stage-panel" aria-label={`Chain of ${ownerName(session, owner)}`}>
      <h2 title={ownerName(session, owner)}>
        {track && <span className="badge">{track.letter}</span>}
        <span className="clip">{ownerName(session, owner)}</span>
      </h2>
      {owner !== MIX && track && (
        <div className="toggles">
          {(['mute', 'solo', 'lift'] as const).map((key) => (
            <button
              key={key}
              type="button"
              aria-pressed={track[key]}
              title={key === 'lift' ? 'Raise by 6 dB while listening' : undefined}
              onClick={() => toggle(key)}
            >
              {key[0].toUpperCase() + key.slice(1)}
            </button>
          ))}
        </div>
      )}
      <ul className="stages">
        {STAGES.map((name) => (
          <li key={name} data-chosen={name === stage}>
            <button
              type="button"
              aria-current={name === stage}
              onClick={() => send(interfaceActions.stageChosen(name))}
            >
              <span>{STAGE_NAMES[name]}</span>
              <span className="figure">{moveCount(chain, name)}</span>
            </button>
            <input
              type="checkbox"
              aria-label={`${STAGE_NAMES[name]} on`}
              checked={chain[name].on}
              onChange={(e) =>
                send(sessionActions.stageSwitched({ owner, stage: name, on: e.target.checked }))
              }
            />
          </li>
        ))}
      </ul>
      <label className="phase">
        Phase
        <select
          value={chain.phase}
          title="Minimum: no latency. Mixed: gentle bands linear, under 12 ms. Linear: all bands linear."
          onChange={(e) =>
            send(sessionActions.phaseChosen({ owner, phase: e.target.value as Chain['phase'] }))
          }
        >
          {PHASE_NAMES.map((phase) => (
            <option key={phase} value={phase}>
              {phase}
            </option>
          ))}
        </select>
      </label>
      <p className="phase-cost" aria-live="polite">
        {costText(chain.phase, cost, session.sampleRateHz)}
      </p>
      <div className="output">
        <FigureField
          label="Output"
          unit="dB"
          value={chain.output.trimDb}
          limits={[-48, 24]}
          format={(db) => formatDb(db)}
          step={(db, direction, fine) =>
            Math.round((db + direction * (fine ? 0.1 : 0.5)) * 100) / 100
          }
          onChange={(trimDb, gesture) =>
            send(sessionActions.outputChanged({ owner, change: { trimDb } }, { gesture }))
          }
        />
        <label className="switch" title="Turn the polarity around">
          <input
            type="checkbox"
            aria-label="Polarity inverted"
            checked={chain.output.polarity === 'inverted'}
            onChange={(e) =>
              send(
                sessionActions.outputChanged({
                  owner,
                  change: { polarity: e.target.checked ? 'inverted' : 'normal' },
                }),
              )
            }
          />
          ⌀
        </label>
      </div>
    </section>
  )
}

function moveCount(chain: Chain, stage: (typeof STAGES)[number]): string {
  const { length } = chain[stage].moves
  return length === 0 ? '' : length === 1 ? '1 move' : `${length} moves`
}

function costText(phase: Chain['phase'], cost: PhaseCost | undefined, rateHz: number): string {
  if (phase === 'minimum') return 'no latency'
  if (!cost) return 'no band needs it'
  const latency = `${((1000 * cost.latencyFrames) / rateHz).toFixed(1)} ms late`
  return cost.preEchoDb === null || cost.preEchoDb < -120
    ? latency
    : `${latency}, pre-echo ${signed(cost.preEchoDb, 0)} dB`
}
