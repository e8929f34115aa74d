import LessIcon from '@mui/icons-material/ExpandLess'
import MoreIcon from '@mui/icons-material/ExpandMore'
import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import Typography from '@mui/material/Typography'
import { type ReactNode, useState } from 'react'

/** Groups of fields beside each other, as many as there is room for. */
export const FieldGroups = styled('div')({
  display: 'flex',
  flexWrap: 'wrap',
  alignItems: 'flex-start',
  gap: '6px 20px',
  width: '100%',
})

const Group = styled('fieldset')({
  minWidth: 0,
  maxWidth: '100%',
  margin: 0,
  padding: 0,
  border: 0,
  '& > div': {
    display: 'flex',
    flexWrap: 'wrap',
    alignItems: 'center',
    gap: '3px 10px',
    minWidth: 0,
  },
})

interface FieldGroupProps {
  readonly name: string
  /** What it needs beside others, in pixels. */
  readonly width?: number
  readonly children: ReactNode
}

/** Fields that belong together by what they do, under a name that says it. */
export function FieldGroup({ name, width = 200, children }: FieldGroupProps) {
  return (
    <Group sx={{ flex: `1 1 ${width}px` }}>
      <Typography
        component="legend"
        sx={{ p: 0, fontSize: 13, fontWeight: 600, lineHeight: '20px' }}
      >
        {name}
      </Typography>
      <div>{children}</div>
    </Group>
  )
}

/** Fields that are rarely used, folded behind a button that says which they are. */
export function MoreFields({ of, children }: { of: string; children: ReactNode }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button
        variant="text"
        aria-expanded={open}
        endIcon={open ? <LessIcon /> : <MoreIcon />}
        sx={{ flexBasis: open ? '100%' : 'auto', justifyContent: 'flex-start' }}
        onClick={() => setOpen(!open)}
      >
        {open ? 'Less' : `More: ${of}`}
      </Button>
      {open && <FieldGroup name="More">{children}</FieldGroup>}
    </>
  )
}
