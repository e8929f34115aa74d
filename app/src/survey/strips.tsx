import { type Group, groupsAbove, type Track } from '@sober-prism/core/session'
import { makeBands } from '@sober-prism/core/spectrum'
import { MIX } from '@sober-prism/core/treatments'
import { memo, type ReactNode, useCallback, useMemo, useState } from 'react'
import { formatDb, formatShare, signed } from '../format'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers } from '../plot/plumb'
import { RulerPlot } from '../plot/ruler-plot'
import { bandAt, drawPlumb, drawStrip, type StripPicture } from '../plot/strip'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, useSession } from '../store/selectors'
import { useEdit, useRoot, useSend } from '../store/store'
import { topLevelDb, topOf } from './top-level'

const SIXTHS = makeBands('sixth')
const HEARD_LITTLE = 0.35

/** One strip per track, the mix, a reference, and the ruler under all of them. */
export function Strips() {
  const session = useSession()
  const analysis = useAnalysis()
  const chosen = useRoot(chosenNode)
  const send = useSend()
  const edit = useEdit()
  const topDb = topLevelDb(session, analysis)
  const [referenceId, setReferenceId] = useState<string | null>(null)
  const reference =
    session.references.find((r) => r.id === referenceId) ?? session.references[0] ?? null
  const measured = reference ? analysis.references.get(reference.id) : undefined
  const mixLufs = analysis.mix?.lufs ?? null
  const referenceLufs = measured?.lufs ?? null
  /** References are shown at the mix's loudness. */
  const shiftDb = mixLufs !== null && referenceLufs !== null ? mixLufs - referenceLufs : 0
  const referenceLevels = useMemo(
    () => measured && Float64Array.from(measured.levels, (v) => v + shiftDb),
    [measured, shiftDb],
  )
  const wholeTop = Math.max(topOf(analysis.mix?.levels), topOf(referenceLevels))
  const readAt = (hz: number) => {
    const levels =
      chosen === MIX
        ? analysis.mix?.levels
        : (analysis.tracks.get(chosen) ?? analysis.groups.get(chosen))?.levels
    return levels ? `${formatDb(levels[bandAt(SIXTHS, hz)])} dB on the chosen strip` : ''
  }
  return (
    <section className="strips" aria-label="Strips">
      <div className="strip-heads" aria-hidden="true">
        <span className="head-level">dB</span>
        <span className="head-heard" title="Share of its loudness that survives in the mix">
          heard
        </span>
      </div>
      <div className="strip-scroll" data-many={session.tracks.length + session.groups.length > 9}>
        {session.tracks.map((track, index) => (
          <TrackStrip
            key={track.id}
            track={track}
            line={index}
            topDb={topDb}
            chosen={chosen === track.id}
            isLead={session.leadIds.includes(track.id)}
          />
        ))}
        {session.groups.map((group, index) => (
          <GroupStrip
            key={group.id}
            group={group}
            line={session.tracks.length + index}
            topDb={topDb}
            chosen={chosen === group.id}
          />
        ))}
      </div>
      <div className="strip-row whole" data-chosen={chosen === MIX}>
        <div className="strip-side">
          <button
            type="button"
            className="strip-name"
            aria-pressed={chosen === MIX}
            onClick={() => send(interfaceActions.nodeChosen(MIX))}
          >
            Mix
          </button>
          <input
            type="range"
            className="fader"
            aria-label="Fader of the mix, dB"
            min={-40}
            max={12}
            step={0.5}
            value={Math.max(-40, session.mix.faderDb)}
            onChange={(e) =>
              edit([{ kind: 'set-node', node: MIX, change: { faderDb: Number(e.target.value) } }], {
                gesture: 'mix fader',
              })
            }
          />
          <span className="figure fader-value">{formatDb(session.mix.faderDb)}</span>
        </div>
        <StripPlot
          label="Spectrum of the mix"
          picture={{
            bands: SIXTHS,
            levels: analysis.mix?.levels ?? null,
            topDb: wholeTop,
            covered: [],
          }}
          gainDb={0}
          line={session.tracks.length + session.groups.length}
        />
      </div>
      {reference && (
        <div className="strip-row whole">
          <div className="strip-side">
            <select
              aria-label="Reference"
              value={reference.id}
              onChange={(e) => setReferenceId(e.target.value)}
            >
              {session.references.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                </option>
              ))}
            </select>
            <span className="figure" title="Shown at the loudness of the mix">
              {shiftDb >= 0 ? '+' : ''}
              {signed(shiftDb)} dB
            </span>
          </div>
          <StripPlot
            label={`Spectrum of the reference ${reference.name}`}
            picture={{
              bands: SIXTHS,
              levels: referenceLevels ?? null,
              topDb: wholeTop,
              covered: [],
            }}
            gainDb={0}
            line={null}
          />
        </div>
      )}
      <div className="strip-row ruler-row">
        <div className="strip-side">
          <span className="hint">Frequency, Hz</span>
        </div>
        <RulerPlot reading={readAt} />
      </div>
    </section>
  )
}

interface TrackStripProps {
  readonly track: Track
  readonly line: number
  readonly topDb: number
  readonly chosen: boolean
  readonly isLead: boolean
}

const TrackStrip = memo(function TrackStrip(props: TrackStripProps) {
  const { track, line, topDb, chosen, isLead } = props
  const session = useSession()
  const analysis = useAnalysis()
  const heard = analysis.heard.get(track.id)
  const above = groupsAbove(session, track.id)
  const groupsDb = above.reduce((sum, g) => sum + g.faderDb, 0)
  const muted = track.mute || above.some((g) => g.mute)
  const gainDb = track.faderDb + groupsDb
  const picture: StripPicture = {
    bands: SIXTHS,
    levels: analysis.tracks.get(track.id)?.levels ?? null,
    topDb: topDb - gainDb,
    covered: heard?.covered ?? [],
  }
  const share = heard && !muted ? formatShare(heard.share) : '–'
  return (
    <div className="strip-row" data-chosen={chosen} data-muted={muted}>
      <StripSide node={track} chosen={chosen} isLead={isLead}>
        <span
          className="figure heard"
          data-little={!!heard && !muted && heard.share < HEARD_LITTLE}
        >
          {share}
        </span>
      </StripSide>
      <StripPlot
        label={`Spectrum of ${track.name}${heard ? `, ${share} heard` : ''}`}
        picture={picture}
        gainDb={track.faderDb}
        line={line}
      />
    </div>
  )
})

interface GroupStripProps extends Omit<TrackStripProps, 'track' | 'isLead'> {
  readonly group: Group
}

/** What comes out of a group. */
const GroupStrip = memo(function GroupStrip({ group, line, topDb, chosen }: GroupStripProps) {
  const analysis = useAnalysis()
  const session = useSession()
  const groupsDb = groupsAbove(session, group.id).reduce((sum, g) => sum + g.faderDb, 0)
  const picture: StripPicture = {
    bands: SIXTHS,
    levels: analysis.groups.get(group.id)?.levels ?? null,
    topDb: topDb - group.faderDb - groupsDb,
    covered: [],
  }
  return (
    <div className="strip-row group" data-chosen={chosen} data-muted={group.mute}>
      <StripSide node={group} chosen={chosen} isLead={false}>
        <span className="figure heard">group</span>
      </StripSide>
      <StripPlot
        label={`Spectrum of the group ${group.name}`}
        picture={picture}
        gainDb={group.faderDb}
        line={line}
      />
    </div>
  )
})

interface StripSideProps {
  readonly node: Track | Group
  readonly chosen: boolean
  readonly isLead: boolean
  readonly children: ReactNode
}

/** Letter, name and fader of a track or group. */
function StripSide({ node, chosen, isLead, children }: StripSideProps) {
  const send = useSend()
  const edit = useEdit()
  return (
    <div className="strip-side">
      <span className="badge" data-lead={isLead} title={isLead ? 'Lead' : undefined}>
        {node.letter}
      </span>
      <button
        type="button"
        className="strip-name clip"
        aria-pressed={chosen}
        title={node.name}
        onClick={() => send(interfaceActions.nodeChosen(node.id))}
      >
        {node.name}
      </button>
      <input
        type="range"
        className="fader"
        aria-label={`Fader of ${node.name}, dB`}
        min={-40}
        max={12}
        step={0.5}
        value={Math.max(-40, node.faderDb)}
        onChange={(e) =>
          edit([{ kind: 'set-node', node: node.id, change: { faderDb: Number(e.target.value) } }], {
            gesture: `fader ${node.id}`,
          })
        }
      />
      <span className="figure fader-value">{formatDb(node.faderDb)}</span>
      {children}
    </div>
  )
}

interface StripPlotProps {
  readonly label: string
  readonly picture: StripPicture
  /** What is added to the measured level to give the level in the mix. */
  readonly gainDb: number
  /** Row of the live reading; `null` for what does not sound. */
  readonly line: number | null
}

function StripPlot({ label, picture, gainDb, line }: StripPlotProps) {
  const desk = useDesk()
  const signals = useMemo(() => [plumb, desk.live], [desk])
  const { bands, levels, topDb, covered } = picture
  const draw = useCallback(
    (surface: Surface) => {
      const reading = desk.player.playing && line !== null ? desk.live.value : null
      const from = (line ?? 0) * bands.length
      const live = reading && {
        // Live levels are taken behind the fader, the picture stands before it.
        levels: Array.from(reading.levels.subarray(from, from + bands.length), (v) => v - gainDb),
        peakDb: 20 * Math.log10(Math.max(1e-6, reading.peaks[line ?? 0])),
      }
      drawStrip(surface, { bands, levels, topDb, covered }, live)
      const hz = plumb.value
      if (hz === null) return
      const at = bandAt(bands, hz)
      drawPlumb(surface, hz, levels ? levels[at] + gainDb : null)
    },
    [desk, bands, levels, topDb, covered, gainDb, line],
  )
  return <Plot className="strip" draw={draw} signals={signals} label={label} {...plumbHandlers} />
}
