import type { Edit } from '@sober-prism/core/session'
import type { Key, Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { useRouting } from '../../store/selectors'
import { useEdit } from '../../store/store'

const TAPS = [
  ['after-fader', 'after its fader'],
  ['before-fader', 'before its fader'],
] as const
const AS = [
  ['mono', 'as mono'],
  ['mid-side', 'as middle and sides'],
] as const

/** What a treatment listens to: another track or group. A ring is refused with a sentence. */
export function KeyChoice({ node, treatment }: { node: string; treatment: Treatment }) {
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
        value={key?.node ?? ''}
        options={[
          ['', 'listens to nothing'],
          ...others.map((n) => [n.id, `listens to ${n.letter} ${n.name}`] as const),
        ]}
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
            label="Where the key is taken"
            value={key.tap}
            options={TAPS}
            onChange={(tap) => set({ ...key, tap })}
          />
          <Choice
            label="Key as"
            value={key.as}
            options={AS}
            onChange={(as) => set({ ...key, as })}
          />
        </>
      )}
    </>
  )
}
