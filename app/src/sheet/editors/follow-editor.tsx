import AddIcon from '@mui/icons-material/Add'
import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import {
  FOLLOW_TYPES,
  type FollowBand,
  MOST_FOLLOW_BANDS,
  newFollowBand,
  type Treatment,
} from '@sober-prism/core/treatments'
import type { FrequencyRange } from '@sober-prism/engine'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups, MoreFields } from '../../controls/field-group'
import { FigureField } from '../../controls/figure-field'
import { Row } from '../../controls/layout'
import { TickBox } from '../../controls/tick-box'
import { parseQ } from '../../format'
import { plumb } from '../../plot/plumb'
import { interfaceActions } from '../../store/interface-slice'
import { useAppDispatch, useAppSelector } from '../../store/store'
import type { EditorProps } from '../chain/treatment-editor'
import { bandLetter } from '../layers/survey-mark'
import { CHANNEL_NAMES, TYPE_NAMES } from '../names'
import { DbField, HzField, MsField, PercentField } from './figures'
import { KeyChoice } from './key-choice'
import { NoteTimes } from './note-times'
import { byRatio } from './steps'

type Follow = Extract<Treatment, { kind: 'follow' }>

const CHANNELS = (['stereo', 'mid', 'side'] as const).map((c) => [c, CHANNEL_NAMES[c]] as const)
const REGION_NAMES: Partial<typeof TYPE_NAMES> = { 'low-cut': 'All below', 'high-cut': 'All above' }
const TYPES = FOLLOW_TYPES.map((t) => [t, REGION_NAMES[t] ?? TYPE_NAMES[t]] as const)
const LISTENS = [
  ['key', 'Key, this band'],
  ['key-range', 'Key, other range'],
  ['itself', 'Own signal'],
] as const

/** Bands that follow a key: which, how far, how fast, and what each listens to. */
export function FollowEditor({ node, treatment, onChange }: EditorProps<Follow>) {
  const { params } = treatment
  const { bands } = params
  const dispatch = useAppDispatch()
  const bandId = useAppSelector((root) => root.interface.bandId)
  const chosen = bands.find((b) => b.id === bandId) ?? bands[0]
  const set = (change: Partial<Follow['params']>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  const change = (values: Partial<FollowBand>, gesture?: string) =>
    set({ bands: bands.map((b) => (b.id === chosen?.id ? { ...b, ...values } : b)) }, gesture)
  const add = () => {
    const band = newFollowBand(crypto.randomUUID(), { hz: Math.round(plumb.value ?? 1000) })
    set({ bands: [...bands, band] })
    dispatch(interfaceActions.bandChosen(band.id))
  }
  return (
    <>
      <Row sx={{ width: '100%', gap: '4px 10px' }}>
        <KeyChoice node={node} treatment={treatment} hears={chosen ? keyRange(chosen) : null} />
        <DbField
          label="Key level"
          value={params.keyDb}
          limits={[-24, 24]}
          onChange={(keyDb, gesture) => set({ keyDb }, gesture)}
        />
      </Row>
      <Row sx={{ width: '100%', gap: '4px 10px' }}>
        <ToggleButtonGroup
          exclusive
          value={chosen?.id ?? null}
          aria-label="Band"
          onChange={(_, id: string | null) => id && dispatch(interfaceActions.bandChosen(id))}
        >
          {bands.map((b, i) => (
            <ToggleButton key={b.id} value={b.id} aria-label={`Band ${bandLetter(i)}`}>
              {bandLetter(i)}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Button
          variant="text"
          startIcon={<AddIcon />}
          disabled={bands.length >= MOST_FOLLOW_BANDS}
          onClick={add}
        >
          Band
        </Button>
        {chosen && (
          <>
            <TickBox label="On" checked={chosen.on} onChange={() => change({ on: !chosen.on })} />
            <Button
              variant="text"
              onClick={() => set({ bands: bands.filter((b) => b.id !== chosen.id) })}
            >
              Remove band
            </Button>
          </>
        )}
      </Row>
      <FieldGroups>
        {chosen && <BandFields band={chosen} onChange={change} />}
        <MoreFields of="look ahead, dry/wet, output">
          <MsField
            by={1}
            label="Look ahead"
            value={params.lookAheadMs}
            limits={[0, 10]}
            onChange={(lookAheadMs, gesture) => set({ lookAheadMs }, gesture)}
          />
          <PercentField
            label="Dry/wet"
            value={params.blend}
            onChange={(blend, gesture) => set({ blend }, gesture)}
          />
          <DbField
            label="Output"
            value={params.outputDb}
            limits={[-24, 24]}
            onChange={(outputDb, gesture) => set({ outputDb }, gesture)}
          />
        </MoreFields>
      </FieldGroups>
    </>
  )
}

/** What of the key a band hears; null where it hears its own sound. */
function keyRange({ listens, type, hz, q }: FollowBand): FrequencyRange | null {
  if (listens.to === 'itself') return null
  if (listens.to === 'key-range') return { fromHz: listens.fromHz, toHz: listens.toHz }
  if (type === 'low-shelf' || type === 'low-cut') return { fromHz: 20, toHz: hz }
  if (type === 'high-shelf' || type === 'high-cut') return { fromHz: hz, toHz: 20_000 }
  // Half the width of a bell, as a ratio, after the Audio EQ Cookbook.
  const half = Math.exp(Math.asinh(1 / (2 * q)))
  return { fromHz: hz / half, toHz: hz * half }
}

interface BandFieldsProps {
  readonly band: FollowBand
  readonly onChange: (change: Partial<FollowBand>, gesture?: string) => void
}

/** One band: where it is, how far it moves, what moves it, and how fast. */
function BandFields({ band, onChange }: BandFieldsProps) {
  const { threshold, listens, ratio } = band
  const hears = (to: FollowBand['listens']['to']) =>
    onChange({
      listens: to === 'key-range' ? { to, fromHz: 300, toHz: 3400 } : { to },
    })
  return (
    <>
      <FieldGroup name="Where">
        <Choice
          label="Type"
          labelled
          value={band.type}
          options={TYPES}
          onChange={(type) => onChange({ type })}
        />
        <HzField
          label="Frequency"
          value={band.hz}
          limits={[20, 20_000]}
          onChange={(hz, gesture) => onChange({ hz }, gesture)}
        />
        {/* A region is as steep as its two filters are. */}
        {!(band.type in REGION_NAMES) && (
          <FigureField
            label="Q"
            value={band.q}
            limits={[0.1, 40]}
            read={parseQ}
            format={(v) => `${Number(v.toPrecision(3))}`}
            step={byRatio(1.125)}
            characters={4}
            onChange={(q, gesture) => onChange({ q }, gesture)}
          />
        )}
        <Choice
          label="Acts on"
          labelled
          value={band.channel}
          options={CHANNELS}
          onChange={(channel) => onChange({ channel })}
        />
      </FieldGroup>
      <FieldGroup name="How far it moves">
        <DbField
          label="Range"
          value={band.rangeDb}
          limits={[-24, 24]}
          onChange={(rangeDb, gesture) => onChange({ rangeDb }, gesture)}
        />
        <Choice
          label="Ratio"
          labelled
          value={ratio ?? 0}
          options={[
            [0, 'Full range at once'],
            ...[1.5, 2, 3, 4, 8].map((r) => [r, `${r} : 1`] as const),
          ]}
          onChange={(r) => onChange({ ratio: r === 0 ? null : r })}
        />
      </FieldGroup>
      <FieldGroup name="What moves it">
        <Choice label="Detector" labelled value={listens.to} options={LISTENS} onChange={hears} />
        {listens.to === 'key-range' &&
          (['fromHz', 'toHz'] as const).map((edge) => (
            <HzField
              key={edge}
              label={edge === 'fromHz' ? 'From' : 'To'}
              value={listens[edge]}
              limits={edge === 'fromHz' ? [20, listens.toHz - 1] : [listens.fromHz + 1, 20_000]}
              onChange={(hz, gesture) => onChange({ listens: { ...listens, [edge]: hz } }, gesture)}
            />
          ))}
        <DbField
          step={1}
          label="Threshold"
          value={threshold.db}
          limits={[-90, 24]}
          onChange={(db, gesture) => onChange({ threshold: { ...threshold, db } }, gesture)}
        />
        <Choice
          label="Threshold reference"
          value={threshold.against}
          options={[
            ['relative', 'Relative to recent level'],
            ['absolute', 'Absolute'],
          ]}
          onChange={(against) =>
            onChange({ threshold: { against, db: against === 'relative' ? -6 : -40 } })
          }
        />
      </FieldGroup>
      <FieldGroup name="How fast">
        <MsField
          label="Attack"
          value={band.attackMs}
          limits={[0.1, 2000]}
          onChange={(attackMs, gesture) => onChange({ attackMs }, gesture)}
        />
        <MsField
          by={10}
          label="Hold"
          value={band.holdMs}
          limits={[0, 2000]}
          onChange={(holdMs, gesture) => onChange({ holdMs }, gesture)}
        />
        <MsField
          label="Release"
          value={band.releaseMs}
          limits={[1, 10_000]}
          onChange={(releaseMs, gesture) => onChange({ releaseMs }, gesture)}
        />
        <NoteTimes
          onChoose={(which, ms) =>
            onChange({ [which]: Math.min(which === 'attackMs' ? 2000 : 10_000, ms) })
          }
        />
      </FieldGroup>
    </>
  )
}
