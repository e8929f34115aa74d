import OpenIcon from '@mui/icons-material/ExpandMore'
import Accordion from '@mui/material/Accordion'
import AccordionDetails from '@mui/material/AccordionDetails'
import AccordionSummary from '@mui/material/AccordionSummary'
import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import { Term } from '../controls/term'
import type { Word } from '../controls/words'
import { useAppDispatch, useAppSelector } from '../store/store'
import { type SectionName, selectShape, shapeActions } from './shape-slice'

interface SectionProps {
  readonly of: SectionName
  readonly title: string
  /** The word of ours that the title is, to be explained. */
  readonly word?: Word
  /** What it knows or is for, on one line while it is folded. */
  readonly says: string
  readonly children: ReactNode
}

/** One of several things that can be done here. One is open at a time; the others say on a line what they know. */
export function Section({ of, title, word, says, children }: SectionProps) {
  const isOpen = useAppSelector(selectShape).section === of
  const dispatch = useAppDispatch()
  return (
    <Accordion
      component="section"
      aria-label={title}
      data-section={of}
      expanded={isOpen}
      slotProps={{ heading: { component: 'h2' }, transition: { timeout: 0 } }}
      sx={{ borderBottom: 1, borderColor: 'divider' }}
      onChange={() => dispatch(shapeActions.sectionTurned(of))}
    >
      <AccordionSummary
        expandIcon={<OpenIcon fontSize="small" />}
        sx={{ minHeight: 40, px: '14px', '& > span:first-of-type': { my: '6px', minWidth: 0 } }}
      >
        <span className="clip">
          <Typography component="span" sx={{ fontWeight: 600, display: 'block' }}>
            {word && isOpen ? <Term word={word}>{title}</Term> : title}
          </Typography>
          {!isOpen && (
            <Typography component="span" variant="body2" color="textSecondary" title={says}>
              {says}
            </Typography>
          )}
        </span>
      </AccordionSummary>
      <AccordionDetails
        sx={{
          display: 'grid',
          gridTemplateColumns: 'minmax(0, 1fr)',
          gap: '6px',
          p: '0 14px 12px',
        }}
      >
        {children}
      </AccordionDetails>
    </Accordion>
  )
}
