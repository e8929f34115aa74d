import type { Edit } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { type MouseEvent, type ReactNode, useState } from 'react'
import { useNavigate } from 'react-router'
import { type ContextItem, useContextMenu } from '../controls/context-menu'
import { interfaceActions } from '../store/interface-slice'
import { nodeOf, openSession, selectedWith } from '../store/selectors'
import { store, useAppDispatch, useEdit } from '../store/store'

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
    const ids = selectedWith(root, node)
    const nodes = ids.flatMap((id) => nodeOf(session, id) ?? [])
    if (nodes.length === 0) return []
    const all = nodes.length > 1 ? ` ${nodes.length} tracks` : ''
    const set = (change: object, listening = false) =>
      edit(
        nodes.map((n): Edit => ({ kind: 'set-node', node: n.id, change })),
        { listening },
      )
    const tracks = nodes.filter((n) => session.tracks.some((t) => t.id === n.id))
    const areLeads = tracks.every((t) => session.leadIds.includes(t.id))
    return [
      ...TOGGLES.map(([key, name, keys]) => {
        const checked = nodes.every((n) => n[key])
        return {
          name: `${name}${all}`,
          keys,
          checked,
          run: () => set({ [key]: !checked }, key !== 'mute'),
        }
      }),
      ...(tracks.length === 0
        ? []
        : [
            {
              name: all ? `Make${all} leads` : 'Lead',
              checked: areLeads,
              run: () =>
                edit(tracks.map((t): Edit => ({ kind: 'set-lead', track: t.id, lead: !areLeads }))),
            },
          ]),
      { name: `Fader${all ? 's of' : ''}${all} to 0 dB`, run: () => set({ faderDb: 0 }) },
      ...(nodes.length > 1
        ? [
            {
              name: `Group${all}`,
              run: () => {
                const name = `Group ${session.groups.length + 1}`
                edit([{ kind: 'add-group', id: crypto.randomUUID(), name, members: [...ids] }])
              },
            },
          ]
        : []),
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
