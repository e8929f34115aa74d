import { ROLES } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { type MouseEvent, type ReactNode, useState } from 'react'
import { useNavigate } from 'react-router'
import { type ContextItem, useContextMenu } from '../controls/context-menu'
import { interfaceActions } from '../store/interface-slice'
import { nodeOf, openSession, selectedWith } from '../store/selectors'
import { store, useAppDispatch, useEdit } from '../store/store'
import {
  allHave,
  allLead,
  fadersAtZero,
  grouped,
  ledBy,
  switched,
  tracksOf,
  withRole,
} from './track-edits'

/** What more can be done with a node where it stands, at the end of its menu. */
export type MoreItems = (node: string) => readonly ContextItem[]

const TOGGLES = [
  ['mute', 'Mute', 'M'],
  ['solo', 'Solo', 'S'],
  ['lift', 'Lift by 6 dB', 'L'],
] as const
const STEPS = ['Clean', 'Fit', 'Shape'] as const

/** The menu of a track or group in a list; what is done to one of several that are selected is done to all of them. */
export function useTrackMenu(more?: MoreItems): {
  readonly open: (event: MouseEvent<HTMLElement>, node: string) => void
  readonly menu: ReactNode
} {
  const [node, setNode] = useState(MIX as string)
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const items = (): readonly ContextItem[] => {
    const root = store.getState()
    const session = openSession(root)
    const ids = selectedWith(root, node).filter((id) => nodeOf(session, id))
    if (ids.length === 0) return []
    const several = ids.length > 1
    const all = several ? ` ${ids.length} tracks` : ''
    const tracks = tracksOf(session, ids)
    const roles = ROLES.map((role) => ({
      name: role,
      checked: tracks.every((t) => t.role === role),
      run: () => edit(withRole(session, ids, role)),
    }))
    return [
      ...TOGGLES.map(([key, name, keys]) => ({
        name: `${name}${all}`,
        keys,
        checked: allHave(session, ids, key),
        run: () => edit(switched(session, ids, key), { listening: key !== 'mute' }),
      })),
      ...(tracks.length === 0
        ? []
        : [
            {
              name: several ? `Make${all} leads` : 'Lead',
              checked: allLead(session, ids),
              run: () => edit(ledBy(session, ids)),
            },
            { name: several ? `Role of${all}` : 'Role', items: roles },
          ]),
      {
        name: `Fader${several ? 's of' : ''}${all} to 0 dB`,
        run: () => edit(fadersAtZero(session, ids)),
      },
      {
        name: `Presets${several ? ` for${all}` : ''}…`,
        run: () => {
          if (!several) dispatch(interfaceActions.nodeChosen(node))
          dispatch(interfaceActions.presetsSwitched(true))
        },
      },
      ...(several ? [{ name: `Group${all}`, run: () => edit(grouped(session, ids)) }] : []),
      null,
      ...STEPS.map((step) => ({
        name: `Open in ${step}`,
        run: () => {
          dispatch(interfaceActions.nodeChosen(node))
          void navigate(`/session/${session.id}/${step.toLowerCase()}`)
        },
      })),
      ...(more ? [null, ...more(node)] : []),
    ]
  }
  const { onContextMenu, menu } = useContextMenu('Track', items)
  const open = (event: MouseEvent<HTMLElement>, of: string) => {
    setNode(of)
    onContextMenu(event)
  }
  return { open, menu }
}
