import { Choice } from '../controls/choice'
import { FigureField } from '../controls/figure-field'
import { Column } from '../controls/layout'
import { signed } from '../format'
import { byAmount } from '../sheet/editors/steps'
import { useSession } from '../store/selectors'
import { useEdit } from '../store/store'

const USUAL = { lufs: -16, dbtp: -1 }
const WAYS = [
  ['as-it-is', 'No normalising'],
  ['peak', 'To peak'],
  ['loudness', 'To loudness'],
] as const

/** What the rendered mix is brought to. Part of the session: `prism render` does the same. */
export function NormaliseChoice({ disabled }: { disabled: boolean }) {
  const { normalise } = useSession()
  const edit = useEdit()
  const set = (to: typeof normalise, gesture?: string) =>
    edit([{ kind: 'set-session', change: { normalise: to } }], { gesture })
  const dbtp = normalise?.dbtp ?? USUAL.dbtp
  const lufs = normalise?.to === 'loudness' ? normalise.lufs : USUAL.lufs
  return (
    <Column sx={{ justifyItems: 'start', m: 0, p: 0, border: 0 }}>
      <Choice
        label="Normalise"
        value={normalise?.to ?? 'as-it-is'}
        options={WAYS}
        disabled={disabled}
        onChange={(way) =>
          set(
            way === 'as-it-is'
              ? null
              : way === 'peak'
                ? { to: way, dbtp }
                : { to: way, lufs: USUAL.lufs, dbtp },
          )
        }
      />
      {normalise?.to === 'loudness' && (
        <FigureField
          label="Loudness"
          unit="LUFS"
          value={lufs}
          limits={[-40, -5]}
          format={(v) => signed(v)}
          step={byAmount(0.5)}
          characters={5}
          onChange={(v, gesture) => set({ to: 'loudness', lufs: v, dbtp }, gesture)}
        />
      )}
      {normalise && (
        <FigureField
          label="True-peak limit"
          unit="dBTP"
          value={dbtp}
          limits={[-30, 0]}
          format={(v) => signed(v)}
          step={byAmount(0.5)}
          characters={5}
          onChange={(v, gesture) => set({ ...normalise, dbtp: v }, gesture)}
        />
      )}
    </Column>
  )
}
