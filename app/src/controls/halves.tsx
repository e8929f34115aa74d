import { styled } from '@mui/material/styles'
import type { ReactNode } from 'react'
import { Group, Panel, type PanelProps, Separator } from 'react-resizable-panels'

interface HalvesProps {
  readonly upper: ReactNode
  readonly lower: ReactNode
  readonly dividerName: string
  /** How large the upper one is, and may be. */
  readonly upperSize: Pick<PanelProps, 'defaultSize' | 'minSize' | 'collapsible' | 'collapsedSize'>
  /** The height of the lower one at the least, in pixels. */
  readonly lowerLeast?: number
}

const LOWER_LEAST = 220

/** Two parts of the work over each other; the divider between them is dragged, or turned by its keys. */
export function Halves(props: HalvesProps) {
  const { upper, lower, dividerName, upperSize, lowerLeast = LOWER_LEAST } = props
  return (
    <Group orientation="vertical">
      <Half {...upperSize}>{upper}</Half>
      <Divider aria-label={dividerName} />
      <Half minSize={`${lowerLeast}px`}>{lower}</Half>
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
