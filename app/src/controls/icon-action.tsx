import IconButton from '@mui/material/IconButton'
import Tooltip from '@mui/material/Tooltip'
import type { MouseEvent, ReactNode } from 'react'

interface IconActionProps {
  readonly label: string
  /** What the tooltip says besides. */
  readonly hint?: string
  readonly icon: ReactNode
  readonly onClick: (event: MouseEvent<HTMLElement>) => void
  readonly disabled?: boolean
  readonly pressed?: boolean
}

/** A button where there is no room for words: these stand in its tooltip and its name. */
export function IconAction({ label, hint, icon, onClick, disabled, pressed }: IconActionProps) {
  return (
    <Tooltip title={hint ? `${label}: ${hint}` : label}>
      <span>
        <IconButton
          aria-label={label}
          aria-pressed={pressed}
          disabled={disabled}
          onClick={onClick}
          sx={pressed ? { bgcolor: 'primary.main', color: 'primary.contrastText' } : undefined}
        >
          {icon}
        </IconButton>
      </span>
    </Tooltip>
  )
}
