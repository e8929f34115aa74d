import Typography from '@mui/material/Typography'
import type { DriveParams, Treatment } from '@sober-prism/core/treatments'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import type { EditorProps } from '../chain/treatment-editor'
import { DbField, PercentField } from './figures'

type Drive = Extract<Treatment, { kind: 'drive' }>

/** From this drive on aliases of high tones may be heard: docs/shape.md has them. */
const LEAST_TOLD_DB = 12

/** How far a sound is driven, how much of it is heard, and how loud. */
export function DriveEditor({ treatment, onChange }: EditorProps<Drive>) {
  const { params } = treatment
  const set = (change: Partial<DriveParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  return (
    <FieldGroups>
      <FieldGroup name="Saturation">
        <DbField
          label="Drive"
          value={params.driveDb}
          limits={[0, 18]}
          onChange={(driveDb, gesture) => set({ driveDb }, gesture)}
        />
        <PercentField
          label="Dry/wet"
          value={params.mix}
          onChange={(mix, gesture) => set({ mix }, gesture)}
        />
        <DbField
          label="Output"
          value={params.outputDb}
          limits={[-24, 24]}
          onChange={(outputDb, gesture) => set({ outputDb }, gesture)}
        />
      </FieldGroup>
      {params.driveDb > LEAST_TOLD_DB && (
        <Typography variant="caption" color="textSecondary">
          Loud content above 9 kHz aliases at this drive, up to −49 dBFS at 19 kHz
        </Typography>
      )}
    </FieldGroups>
  )
}
