import BackIcon from '@mui/icons-material/ChevronLeft'
import MoreIcon from '@mui/icons-material/ChevronRight'
import Divider from '@mui/material/Divider'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { type MouseEvent, type ReactNode, useState } from 'react'

/** One line of a context menu, or one that opens more of them in its place; null for a line between groups. */
export type ContextItem =
  | ContextAction
  | { readonly name: string; readonly items: readonly ContextAction[] }
  | null

interface ContextAction {
  readonly name: string
  /** The key that does the same. */
  readonly keys?: string
  readonly checked?: boolean
  readonly disabled?: boolean
  readonly run: () => void
}

/**
 * The menu of a thing: opened by the other mouse button, a long press, or the menu key where the thing has the focus.
 * `items` is asked when it opens.
 */
export function useContextMenu(
  label: string,
  items: () => readonly ContextItem[],
): { readonly onContextMenu: (event: MouseEvent<HTMLElement>) => void; readonly menu: ReactNode } {
  const [place, setPlace] = useState<{ left: number; top: number } | null>(null)
  /** Whose lines are shown; null for those of the thing itself. */
  const [within, setWithin] = useState<string | null>(null)
  const close = () => {
    setPlace(null)
    setWithin(null)
  }
  const onContextMenu = (event: MouseEvent<HTMLElement>) => {
    event.preventDefault()
    event.stopPropagation()
    const box = event.currentTarget.getBoundingClientRect()
    // The menu key tells no place, or the middle of what has the focus.
    const isPointed = event.clientX > 0 || event.clientY > 0
    setPlace(
      isPointed ? { left: event.clientX, top: event.clientY } : { left: box.left, top: box.bottom },
    )
  }
  const shown = place ? items() : []
  const inner = shown.find((item) => item && 'items' in item && item.name === within)
  const menu = place && (
    <Menu
      open
      anchorReference="anchorPosition"
      anchorPosition={place}
      onClose={close}
      onContextMenu={(event) => {
        event.preventDefault()
        close()
      }}
      slotProps={{ list: { 'aria-label': within ?? label } }}
    >
      {/* Lines of their own come anew, so that the first of them has the focus. */}
      {inner && 'items' in inner
        ? [
            <MenuItem key="back" autoFocus onClick={() => setWithin(null)}>
              <BackIcon sx={{ ml: '-4px' }} />
              {inner.name}
            </MenuItem>,
            ...inner.items.map((item) => lineOf(item, close)),
          ]
        : shown.map((item, i) =>
            !item ? (
              // biome-ignore lint/suspicious/noArrayIndexKey: a line has nothing but its place.
              <Divider key={`line ${i}`} component="li" />
            ) : 'items' in item ? (
              <MenuItem
                key={item.name}
                aria-haspopup="menu"
                onClick={() => setWithin(item.name)}
                onKeyDown={(event) => event.key === 'ArrowRight' && setWithin(item.name)}
              >
                {item.name}
                <MoreIcon sx={{ ml: 'auto', mr: '-4px' }} />
              </MenuItem>
            ) : (
              lineOf(item, close)
            ),
          )}
    </Menu>
  )
  return { onContextMenu, menu }
}

function lineOf({ name, keys, checked, disabled, run }: ContextAction, close: () => void) {
  return (
    <MenuItem
      key={name}
      disabled={disabled}
      {...(checked === undefined ? {} : { role: 'menuitemcheckbox', 'aria-checked': checked })}
      onClick={() => {
        close()
        run()
      }}
    >
      {checked ? '✓ ' : ''}
      {name}
      {keys && (
        <Typography variant="caption" color="textSecondary" sx={{ ml: 'auto', pl: 2 }}>
          {keys}
        </Typography>
      )}
    </MenuItem>
  )
}
