import Divider from '@mui/material/Divider'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { type MouseEvent, type ReactNode, useState } from 'react'

/** One line of a context menu; null for a line between groups. */
export type ContextItem = {
  readonly name: string
  /** The key that does the same. */
  readonly keys?: string
  readonly checked?: boolean
  readonly disabled?: boolean
  readonly run: () => void
} | null

/**
 * The menu of a thing: opened by the other mouse button, a long press, or the menu key where the thing has the focus.
 * `items` is asked when it opens.
 */
export function useContextMenu(
  label: string,
  items: () => readonly ContextItem[],
): { readonly onContextMenu: (event: MouseEvent<HTMLElement>) => void; readonly menu: ReactNode } {
  const [place, setPlace] = useState<{ left: number; top: number } | null>(null)
  const close = () => setPlace(null)
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
      slotProps={{ list: { 'aria-label': label } }}
    >
      {items().map((item, i) =>
        item ? (
          <MenuItem
            key={item.name}
            disabled={item.disabled}
            {...(item.checked === undefined
              ? {}
              : { role: 'menuitemcheckbox', 'aria-checked': item.checked })}
            onClick={() => {
              close()
              item.run()
            }}
          >
            {item.checked ? '✓ ' : ''}
            {item.name}
            {item.keys && (
              <Typography variant="caption" color="textSecondary" sx={{ ml: 'auto', pl: 2 }}>
                {item.keys}
              </Typography>
            )}
          </MenuItem>
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: a line has nothing but its place.
          <Divider key={`line ${i}`} component="li" />
        ),
      )}
    </Menu>
  )
  return { onContextMenu, menu }
}
