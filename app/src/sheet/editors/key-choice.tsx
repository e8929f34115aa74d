import ToggleButton from '@mui/material/ToggleButton'
import type { Edit } from '@sober-prism/core/session'
import type { Key, Treatment } from '@sober-prism/core/treatments'
import type { FrequencyRange } from '@sober-prism/engine'
import { Choice } from '../../controls/choice'
import { useHeard } from '../../shell/desk-context'
import { useHear } from '../../shell/use-hear'
import { useRouting } from '../../store/selectors'
import { useEdit } from '../../store/store'

const TAPS = [
  ['after-fader', 'Post-fader'],
  ['before-fader', 'Pre-fader'],
] as const
const AS = [
  ['mono', 'Mono'],
  ['mid-side', 'Mid/side'],
] as const

interface KeyChoiceProps {
  readonly node: string
  readonly treatment: Treatment
  /** What of the key is heard by the treatment, or by its chosen band; null where it is not the key. */
  readonly hears: FrequencyRange | null
}

/** What a treatment listens to: another track or group. A cycle is refused with a sentence. */
export function KeyChoice({ node, treatment, hears }: KeyChoiceProps) {
  const session = useRouting()
  const edit = useEdit()
  const { id, key } = treatment
  const set = (next: Key | null) => {
    const change: Edit = { kind: 'set-treatment', node, treatment: id, change: { key: next } }
    edit([change])
  }
  const others = [...session.tracks, ...session.groups].filter((n) => n.id !== node)
  return (
    <>
      <Choice
        label="Key"
        labelled
        value={key?.node ?? ''}
        options={[['', 'No key'], ...others.map((n) => [n.id, `${n.letter} ${n.name}`] as const)]}
        onChange={(chosen) =>
          set(
            chosen === ''
              ? null
              : { node: chosen, tap: key?.tap ?? 'after-fader', as: key?.as ?? 'mono' },
          )
        }
      />
      {key && (
        <>
          <Choice
            label="Key tap"
            labelled
            value={key.tap}
            options={TAPS}
            onChange={(tap) => set({ ...key, tap })}
          />
          <Choice
            label="Key as"
            labelled
            value={key.as}
            options={AS}
            onChange={(as) => set({ ...key, as })}
          />
          {hears && <HearKey node={key.node} range={hears} />}
        </>
      )}
    </>
  )
}

/** Lets the key be heard alone, as the treatment hears it. */
function HearKey({ node, range }: { node: string; range: FrequencyRange }) {
  const hearOther = useHear()
  const rendition = useHeard()?.rendition
  const isHeard = rendition?.kind === 'range' && rendition.node === node
  const hear = () => hearOther(isHeard ? null : { kind: 'range', node, range })
  return (
    <ToggleButton
      value="key"
      selected={isHeard}
      title="The key alone, as the detector hears it"
      onClick={hear}
    >
      Listen to key
    </ToggleButton>
  )
}
