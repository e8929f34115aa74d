import AddIcon from '@mui/icons-material/Add'
import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import { CROSSOVER_SLOPES, type CrossoverSum } from '@sober-prism/core/filters'
import {
  BAND_KINDS,
  type BandKind,
  type BandTreatment,
  MOST_IN_BAND,
  MOST_SPLITS,
  newSplitBand,
  type SplitBand,
  type SplitParams,
  type Treatment,
} from '@sober-prism/core/treatments'
import { useState } from 'react'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import { Fields, Row } from '../../controls/layout'
import { formatHz, signed } from '../../format'
import { useDesk } from '../../shell/desk-context'
import { useWork } from '../../shell/use-asked'
import { useEdit } from '../../store/store'
import type { EditorProps } from '../chain/treatment-editor'
import { BandTreatmentEditor } from './band-treatment-editor'
import { DbField, HzField, PercentField } from './figures'

type Split = Extract<Treatment, { kind: 'split' }>

const CROSSOVERS = [
  ['linkwitz-riley', 'Linkwitz-Riley'],
  ['linear', 'linear phase'],
  ['subtractive', 'Subtraction'],
] as const
const SLOPES = CROSSOVER_SLOPES.map((s) => [s, `${s} dB/oct`] as const)
const KIND_NAMES = Object.keys(BAND_KINDS) as BandKind[]
const ADD = 'Add to this band…'

/** Where the bands meet, and the level, width and chain of each. */
export function SplitEditor({ node, treatment, onChange }: EditorProps<Split>) {
  const { params } = treatment
  const { hz, bands } = params
  const [chosen, setChosen] = useState(0)
  const at = Math.min(chosen, bands.length - 1)
  const set = (change: Partial<SplitParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  const setBand = (change: Partial<SplitBand>, gesture?: string) =>
    set({ bands: bands.map((b, i) => (i === at ? { ...b, ...change } : b)) }, gesture)
  const add = () => {
    const last = hz[hz.length - 1]
    // Half-way on the ruler between the last crossover and the top.
    const next = Math.round(Math.sqrt(last * 20_000))
    set({ hz: [...hz, next], bands: [...bands, newSplitBand()] })
    setChosen(bands.length)
  }
  const remove = () => {
    const meets = Math.min(at, hz.length - 1)
    set({ hz: hz.filter((_, i) => i !== meets), bands: bands.filter((_, i) => i !== at) })
  }
  return (
    <>
      <FieldGroups>
        <FieldGroup name="Crossovers">
          <Choice
            label="Crossover"
            labelled
            value={params.crossover}
            options={CROSSOVERS}
            onChange={(crossover) => set({ crossover })}
          />
          <Choice
            label="Slope"
            labelled
            value={params.slopeDbPerOct}
            options={SLOPES}
            onChange={(slopeDbPerOct) => set({ slopeDbPerOct })}
          />
          {hz.map((f, i) => (
            <HzField
              // biome-ignore lint/suspicious/noArrayIndexKey: crossovers are told apart by their place.
              key={i}
              label={`Crossover ${i + 1}`}
              value={f}
              limits={[i === 0 ? 20 : hz[i - 1] + 1, i === hz.length - 1 ? 20_000 : hz[i + 1] - 1]}
              onChange={(v, gesture) => set({ hz: hz.map((g, k) => (k === i ? v : g)) }, gesture)}
            />
          ))}
          <SumTest node={node} params={params} />
        </FieldGroup>
      </FieldGroups>
      <Row sx={{ flexBasis: '100%' }}>
        <ToggleButtonGroup
          exclusive
          value={at}
          aria-label="Band"
          onChange={(_, i: number | null) => i !== null && setChosen(i)}
        >
          {bands.map((band, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: bands are told apart by their place.
            <ToggleButton key={i} value={i} aria-label={`Band ${i + 1}, ${spanText(hz, i)}`}>
              {i + 1}
              {band.treatments.length > 0 ? ' treated' : ''}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Typography variant="figure" sx={{ minWidth: '18ch' }}>
          {spanText(hz, at)}
        </Typography>
        <Button
          variant="text"
          startIcon={<AddIcon />}
          disabled={hz.length >= MOST_SPLITS || hz[hz.length - 1] > 12_000}
          onClick={add}
        >
          Band
        </Button>
        <Button variant="text" disabled={bands.length <= 2} onClick={remove}>
          Remove band {at + 1}
        </Button>
      </Row>
      <BandOfSplit
        key={at}
        place={at}
        band={bands[at]}
        node={node}
        treatment={treatment}
        onChange={setBand}
      />
    </>
  )
}

interface BandOfSplitProps {
  readonly place: number
  readonly band: SplitBand
  readonly node: string
  readonly treatment: Split
  readonly onChange: (change: Partial<SplitBand>, gesture?: string) => void
}

/** One band: how loud and wide it is, and what treats it. */
function BandOfSplit({ place, band, node, treatment, onChange }: BandOfSplitProps) {
  const edit = useEdit()
  const [chosenId, setChosenId] = useState(band.treatments[0]?.id ?? null)
  const shown = band.treatments.find((t) => t.id === chosenId) ?? band.treatments[0]
  const change = (id: string, values: Partial<BandTreatment>, gesture?: string) =>
    onChange(
      {
        treatments: band.treatments.map((t) =>
          t.id === id ? ({ ...t, ...values } as BandTreatment) : t,
        ),
      },
      gesture && `${gesture} in band`,
    )
  const solo = () => {
    const { params } = treatment
    const bands = params.bands.map((b, i) => (i === place ? { ...b, solo: !b.solo } : b))
    const values = { params: { ...params, bands } }
    // It is for listening only, as the solo of a track is.
    edit([{ kind: 'set-treatment', node, treatment: treatment.id, change: values }], {
      listening: true,
    })
  }
  const add = (kind: BandKind) => {
    const params = BAND_KINDS[kind].defaults()
    const added = { id: crypto.randomUUID(), kind, on: true, params } as BandTreatment
    onChange({ treatments: [...band.treatments, added] })
    setChosenId(added.id)
  }
  return (
    <Fields sx={{ flexBasis: '100%' }}>
      <legend className="visually-hidden">Band {place + 1}</legend>
      <DbField
        label="Level"
        value={band.levelDb}
        limits={[-60, 24]}
        onChange={(levelDb, gesture) => onChange({ levelDb }, gesture)}
      />
      <PercentField
        label="Width"
        most={2}
        value={band.width}
        onChange={(width, gesture) => onChange({ width }, gesture)}
      />
      <ToggleButton
        value="mute"
        selected={band.mute}
        onClick={() => onChange({ mute: !band.mute })}
      >
        Mute
      </ToggleButton>
      <ToggleButton
        value="solo"
        selected={band.solo}
        title="Only this band, for listening only"
        onClick={solo}
      >
        Solo
      </ToggleButton>
      {band.treatments.length > 0 && (
        <ToggleButtonGroup
          exclusive
          value={shown?.id ?? null}
          aria-label={`In band ${place + 1}`}
          onChange={(_, id: string | null) => id && setChosenId(id)}
        >
          {band.treatments.map((t) => (
            <ToggleButton
              key={t.id}
              value={t.id}
              sx={t.on ? {} : { textDecoration: 'line-through' }}
            >
              {BAND_KINDS[t.kind].name}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      )}
      <Choice
        label={ADD}
        value=""
        disabled={band.treatments.length >= MOST_IN_BAND}
        options={[['', ADD], ...KIND_NAMES.map((k) => [k, BAND_KINDS[k].name] as const)]}
        onChange={(kind) => kind !== '' && add(kind as BandKind)}
      />
      {shown && (
        <BandTreatmentEditor
          key={shown.id}
          treatment={shown}
          onChange={(values, gesture) => change(shown.id, values, gesture)}
          onRemove={() =>
            onChange({ treatments: band.treatments.filter((t) => t.id !== shown.id) })
          }
        />
      )}
    </Fields>
  )
}

/** Splits the sound behind the chain, adds the untouched bands up again, and tells what differs. */
function SumTest({ node, params }: { node: string; params: SplitParams }) {
  const desk = useDesk()
  const { crossover, slopeDbPerOct, hz } = params
  const of = `${node} ${crossover} ${slopeDbPerOct} ${hz.join(' ')}`
  const [told, setTold] = useState<{ of: string; sum: CrossoverSum | null } | null>(null)
  const { busy, trouble, run } = useWork()
  const test = () =>
    run(async (options) => {
      const spec = { kind: crossover, slopeDbPerOct, hz }
      setTold({ of, sum: await desk.ask.crossoverSum({ node, spec }, options) })
    })
  return (
    <>
      <Button variant="text" disabled={busy !== null} onClick={() => void test()}>
        Test the sum
      </Button>
      <Typography variant="caption" color={trouble ? 'warning' : 'textSecondary'} role="status">
        {trouble ?? (busy !== null ? 'Summing…' : told?.of === of ? sumText(told.sum) : '')}
      </Typography>
    </>
  )
}

function sumText(sum: CrossoverSum | null): string {
  if (!sum) return 'No audio to test with.'
  const flat = `Unprocessed sum flat within ${sum.flatWithinDb.toFixed(3)} dB`
  return sum.nullDb === null
    ? `${flat}; phase shifted.`
    : `${flat}; null against the input ${signed(sum.nullDb, 0)} dB.`
}

function spanText(hz: readonly number[], band: number): string {
  if (band === 0) return `below ${formatHz(hz[0])}`
  if (band === hz.length) return `above ${formatHz(hz[band - 1])}`
  return `${formatHz(hz[band - 1])} to ${formatHz(hz[band])}`
}
