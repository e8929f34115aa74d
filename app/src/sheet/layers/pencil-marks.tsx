import ButtonBase from '@mui/material/ButtonBase'
import { type EqBand, hasGain } from '@sober-prism/core/filters'
import type { Session } from '@sober-prism/core/session'
import type { ChainBand } from '@sober-prism/core/treatments'
import type { SessionFinding } from '@sober-prism/engine'
import { memo } from 'react'
import { findingWords } from '../../findings/named-finding'
import { isLookedAt } from '../../plot/ruler'
import { interfaceActions } from '../../store/interface-slice'
import { store, useAppDispatch } from '../../store/store'
import type { PencilMark } from '../draw-sheet'
import styles from '../sheet.module.css'
import { dbToY, type SheetScale, toX, withinSheet } from '../sheet-scale'
import { FLAG_HEIGHT, FLAG_WIDTH } from './survey-mark'

/** A proposed band on the sheet, with the finding it answers. */
export interface ProposedMark extends PencilMark {
  readonly finding: SessionFinding
  readonly zeroY: number
}

/** Bands this near stand at one place, in octaves. */
const SAME_PLACE = 0.12

/** Whether a band that is proposed stands in the chain already: findings are older than the chain while it is measured anew. */
function isMade(band: EqBand, made: readonly ChainBand[]): boolean {
  return made.some(({ on, band: { type, hz, db } }) => {
    if (!on || type !== band.type) return false
    const isThere = Math.abs(Math.log2(hz / band.hz)) < SAME_PLACE
    return hasGain(type) ? isThere && Math.sign(db) === Math.sign(band.db) : isThere
  })
}

/** The bands that findings propose for a node, but for those that it has. @param made its bands. */
export function pencilMarks(
  findings: readonly SessionFinding[],
  node: string,
  made: readonly ChainBand[],
  scale: SheetScale,
): readonly ProposedMark[] {
  return findings.flatMap((finding) =>
    finding.moves.flatMap((move, i): ProposedMark[] => {
      if (move.kind !== 'add-band' || move.node !== node) return []
      const { band } = move.chainBand
      if (isMade(band, made)) return []
      const db = hasGain(band.type) ? band.db : 0
      const x = toX(band.hz, scale)
      if (!isLookedAt(band.hz, scale.span)) return []
      return [
        {
          key: `${finding.key} ${i}`,
          finding,
          x,
          y: dbToY(withinSheet(db, scale), scale),
          zeroY: dbToY(0, scale),
        },
      ]
    }),
  )
}

interface PencilHandlesProps {
  readonly marks: readonly ProposedMark[]
  readonly session: Session
}

/** What can be pressed of pencil marks: each opens the finding it comes from. */
export const PencilHandles = memo(function PencilHandles({ marks, session }: PencilHandlesProps) {
  const dispatch = useAppDispatch()
  const show = ({ key }: SessionFinding) => {
    dispatch(interfaceActions.findingOpened(key))
    if (!store.getState().interface.evidenceOpen) dispatch(interfaceActions.evidenceFolded())
  }
  return marks.map(({ key, finding, x, zeroY }) => {
    const { title, moves } = findingWords(session, finding)
    return (
      <ButtonBase
        key={key}
        className={styles.handle}
        aria-label={`Proposed: ${moves.join('; ')}. ${title}`}
        title={`${title}: ${moves.join('; ')}`}
        style={{
          left: x - 2,
          top: zeroY - FLAG_HEIGHT - 5,
          width: FLAG_WIDTH + 2,
          height: FLAG_HEIGHT + 8,
        }}
        onClick={() => show(finding)}
      />
    )
  })
})
