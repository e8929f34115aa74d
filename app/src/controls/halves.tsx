import { styled } from '@mui/material/styles'
import type { ReactNode } from 'react'
import { Group, Panel, type PanelProps, Separator } from 'react-resizable-panels'

interface HalvesProps {
  readonly upper: ReactNode
  readonly lower: ReactNode
  readonly dividerName: string
  /** How large the upper one is, and may be. */
  readonly upperSize: Pick<PanelProps, 'defaultSize' | 'minSize' | 'collapsible' | 'collapsedSize'>
}

const LOWER_LEAST = '220px'

/** Two parts of the work over each other; the divider between them is dragged, or turned by its keys. */
export function Halves({ upper, lower, dividerName, upperSize }: HalvesProps) {
  return (
    <Group orientation="vertical">
      <Half {...upperSize}>{upper}</Half>
      <Divider aria-label={dividerName} />
      <Half minSize={LOWER_LEAST}>{lower}</Half>
    </Group>
  )
}

const Half = styled(Panel)({ display: 'grid', minHeight: 0, overflow: 'hidden' })

const Divider = styled(Separator)(({ theme }) => ({
  height: 7,
  borderBlock: `1px solid ${theme.palette.divider}`,
  backgroundColor: theme.palette.action.hover,
  '&:hover, &:focus-visible': { backgroundColor: theme.palette.primary.main },
}))
