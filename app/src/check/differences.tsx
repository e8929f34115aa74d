import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { type NodeTrait, stateDifferences, traitWords } from '@sober-prism/core/session'
import { useMemo } from 'react'
import { Entry, EntryHead, Pane } from '../controls/layout'
import { capital, listOf, printed } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch, useEdit } from '../store/store'
import type { ComparedState } from './use-states'

interface DifferencesProps {
  /** What is worked in. */
  readonly now: ComparedState
  readonly other: ComparedState
}

/** What differs between what is worked in and another state, track by track; each can be taken over alone. */
export function Differences({ now, other }: DifferencesProps) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const found = useMemo(
    () => stateDifferences(now.session, other.session),
    [now.session, other.session],
  )
  const title = (state: ComparedState) => (state.sign ? `${state.sign} ${state.name}` : state.name)
  if (found.length === 0) {
    return (
      <Pane>
        <Typography>
          {title(now)} and {title(other)} are the same.
        </Typography>
      </Pane>
    )
  }
  const take = (node: string, name: string) => {
    edit([{ kind: 'take-from-variation', variation: other.id, node }])
    dispatch(interfaceActions.noticeShown(`${name} taken from ${other.name}.`, 'info', 'edit'))
  }
  const isThere = (node: string) =>
    node === 'mix' || [...now.session.tracks, ...now.session.groups].some((n) => n.id === node)
  const isIn = (node: string) =>
    node === 'mix' || [...other.session.tracks, ...other.session.groups].some((n) => n.id === node)
  return found.map(({ node, name, inFirst, inSecond }) => (
    <Entry key={node}>
      <EntryHead>
        <Typography variant="h3">{name}</Typography>
        {isThere(node) && isIn(node) && (
          <Button variant="text" onClick={() => take(node, name)}>
            Take over
          </Button>
        )}
      </EntryHead>
      <Typography variant="body2" color="textSecondary">
        {title(now)}: {inFirst.length > 0 ? listOf(inFirst.map(words)) : 'nothing'}
      </Typography>
      <Typography variant="body2">
        {capital(title(other))}: {inSecond.length > 0 ? listOf(inSecond.map(words)) : 'nothing'}
      </Typography>
    </Entry>
  ))
}

const words = (trait: NodeTrait) => printed(traitWords(trait))
