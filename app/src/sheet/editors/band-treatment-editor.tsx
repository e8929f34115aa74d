import AddIcon from '@mui/icons-material/Add'
import Button from '@mui/material/Button'
import { newBand } from '@sober-prism/core/filters'
import {
  BAND_KINDS,
  type BandTreatment,
  type ChainBand,
  MOST_BANDS,
  newChainBand,
  type Treatment,
} from '@sober-prism/core/treatments'
import { Fields } from '../../controls/layout'
import { TickBox } from '../../controls/tick-box'
import { plumb } from '../../plot/plumb'
import { BandValues } from '../bands/band-editor'
import { bandLetter } from '../layers/survey-mark'
import { AlignEditor } from './align-editor'
import { BroadStrokesEditor } from './broad-strokes-editor'
import { DriveEditor } from './drive-editor'
import { LevellerValues } from './leveller-editor'

interface BandTreatmentEditorProps {
  readonly treatment: BandTreatment
  readonly onChange: (values: Partial<BandTreatment>, gesture?: string) => void
  readonly onRemove: () => void
}

/** A treatment within one band of a split: whether it is on, and its values. */
export function BandTreatmentEditor({ treatment, onChange, onRemove }: BandTreatmentEditorProps) {
  const { name } = BAND_KINDS[treatment.kind]
  return (
    <Fields sx={{ flexBasis: '100%' }}>
      <legend className="visually-hidden">{name} in the band</legend>
      <TickBox
        label="On"
        name={`${name} in the band on`}
        checked={treatment.on}
        onChange={(on) => onChange({ on })}
      />
      <Values
        treatment={treatment}
        onChange={(params, gesture) => onChange({ params } as Partial<BandTreatment>, gesture)}
      />
      <Button variant="text" onClick={onRemove}>
        Remove {name.toLowerCase()} from the band
      </Button>
    </Fields>
  )
}

interface ValuesProps<T extends BandTreatment> {
  readonly treatment: T
  readonly onChange: (params: T['params'], gesture?: string) => void
}

function Values({ treatment, onChange }: ValuesProps<BandTreatment>) {
  switch (treatment.kind) {
    case 'equaliser':
      return <BandsInBand treatment={treatment} onChange={onChange} />
    case 'broad-strokes':
      // The sound of the band alone is not measured: what a control changes of it is not told.
      return <BroadStrokesEditor node="" treatment={asTreatment(treatment)} onChange={onChange} />
    case 'drive':
      return <DriveEditor node="" treatment={asTreatment(treatment)} onChange={onChange} />
    case 'leveller':
      return <LevellerValues treatment={asTreatment(treatment)} onChange={onChange} />
    case 'align':
      return <AlignEditor node="" treatment={asTreatment(treatment)} onChange={onChange} />
  }
}

/** As editors of whole chains know it. */
function asTreatment<K extends BandTreatment['kind']>(
  treatment: Extract<BandTreatment, { kind: K }>,
): Extract<Treatment, { kind: K }> {
  const rest = { stage: 'shape', key: null, reason: '', evidence: null }
  return { ...treatment, ...rest } as unknown as Extract<Treatment, { kind: K }>
}

/** The bands of an equaliser, one below the other: the sheet shows those of the node's own chain. */
function BandsInBand({
  treatment,
  onChange,
}: ValuesProps<Extract<BandTreatment, { kind: 'equaliser' }>>) {
  const { params } = treatment
  const { bands } = params
  const change = (id: string, values: Partial<ChainBand>, gesture?: string) =>
    onChange(
      { ...params, bands: bands.map((m) => (m.id === id ? { ...m, ...values } : m)) },
      gesture,
    )
  return (
    <>
      {bands.map((chainBand, i) => (
        <Fields key={chainBand.id} sx={{ flexBasis: '100%' }}>
          <legend className="visually-hidden">Band {bandLetter(i)} of the equaliser</legend>
          <BandValues
            band={chainBand.band}
            on={chainBand.on}
            stereo
            onChange={(values, gesture) =>
              change(chainBand.id, { band: { ...chainBand.band, ...values } }, gesture)
            }
            onSwitch={() => change(chainBand.id, { on: !chainBand.on })}
          />
          <Button
            variant="text"
            onClick={() =>
              onChange({ ...params, bands: bands.filter((m) => m.id !== chainBand.id) })
            }
          >
            Remove
          </Button>
        </Fields>
      ))}
      <Button
        variant="text"
        startIcon={<AddIcon />}
        disabled={bands.length >= MOST_BANDS}
        onClick={() => {
          const chainBand = newChainBand(
            crypto.randomUUID(),
            newBand('bell', Math.round(plumb.value ?? 1000)),
          )
          onChange({ ...params, bands: [...bands, chainBand] })
        }}
      >
        Bell
      </Button>
    </>
  )
}
