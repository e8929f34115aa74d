import KeptIcon from '@mui/icons-material/BookmarksOutlined'
import Divider from '@mui/material/Divider'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import type { NamedPassage, Passage } from '@sober-prism/core/session'
import { useState } from 'react'
import { shallowEqual } from 'react-redux'
import { IconAction } from '../controls/icon-action'
import { formatTime } from '../format'
import { openSession } from '../store/selectors'
import { useAppSelector, useEdit } from '../store/store'

/** Passages that are kept by name: one is taken again, or the one of now is kept. */
export function KeptPassages() {
  const { passage, passages, sampleRateHz } = useAppSelector((root) => {
    const { passage, passages, sampleRateHz } = openSession(root)
    return { passage, passages, sampleRateHz }
  }, shallowEqual)
  const edit = useEdit()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const close = () => setAnchor(null)
  return (
    <>
      <IconAction
        label="Saved passages"
        icon={<KeptIcon />}
        onClick={({ currentTarget }) => setAnchor(currentTarget)}
      />
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        <MenuItem
          disabled={!passage || passages.some((p) => isAt(p, passage))}
          onClick={() => {
            if (passage) edit([{ kind: 'add-passage', passage: named(passages, passage) }])
            close()
          }}
        >
          Save this passage
        </MenuItem>
        {passages.length > 0 && <Divider />}
        {passages.map((kept) => (
          <MenuItem
            key={kept.id}
            selected={isAt(kept, passage)}
            onClick={() => {
              edit([{ kind: 'set-session', change: { passage: stretchOf(kept) } }])
              close()
            }}
          >
            {kept.name}, {timesOf(kept, sampleRateHz)}
          </MenuItem>
        ))}
      </Menu>
    </>
  )
}

export function isAt(kept: NamedPassage, passage: Passage | null): boolean {
  return kept.fromFrame === passage?.fromFrame && kept.toFrame === passage.toFrame
}

export function stretchOf({ fromFrame, toFrame }: NamedPassage): Passage {
  return { fromFrame, toFrame }
}

/** A passage with a name that no other one has. */
export function named(
  others: readonly NamedPassage[],
  passage: Passage,
  wish = 'Passage',
): NamedPassage {
  const taken = new Set(others.map((p) => p.name))
  let name = wish
  for (let n = 2; taken.has(name); n++) name = `${wish} ${n}`
  return { id: crypto.randomUUID(), name, ...passage }
}

export function timesOf({ fromFrame, toFrame }: Passage, rateHz: number): string {
  return `${formatTime(fromFrame / rateHz)} to ${formatTime(toFrame / rateHz)}`
}
