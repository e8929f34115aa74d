// @vitest-environment happy-dom

import { newBand } from '@sober-prism/core/filters'
import { newChainBand } from '@sober-prism/core/treatments'
import type { SessionFinding } from '@sober-prism/engine'
import { describe, expect, it } from 'vitest'
import { pencilMarks } from './pencil-marks'

const scale = { width: 600, height: 300, topDb: 12, bottomDb: -12 }
const proposed = (band: ReturnType<typeof newBand>) =>
  ({
    key: 'f',
    moves: [
      {
        kind: 'add-band',
        node: 'v',
        stage: 'clean',
        treatment: null,
        newTreatment: 'p',
        chainBand: newChainBand('p', band),
      },
    ],
  }) as unknown as SessionFinding
const cut = (hz: number, db = -4) => ({ ...newBand('bell', hz), db })
const made = (band: ReturnType<typeof newBand>, on = true) => ({ ...newChainBand('m', band), on })

describe('proposed bands on the sheet', () => {
  it('stand for the node that they treat, and no other', () => {
    expect(pencilMarks([proposed(cut(1000))], 'v', [], scale).length).toBe(1)
    expect(pencilMarks([proposed(cut(1000))], 'w', [], scale)).toEqual([])
  })

  it('are gone as soon as the band is made, before it is measured', () => {
    const count = (of: ReturnType<typeof newBand>, by: ReturnType<typeof made>) =>
      pencilMarks([proposed(of)], 'v', [by], scale).length
    expect(count(cut(1000), made(cut(1010)))).toBe(0)
    expect(count(newBand('low-cut', 80), made(newBand('low-cut', 82)))).toBe(0)
    // Elsewhere, the other way, of another kind or switched off it still is to be made.
    expect(count(cut(1000), made(cut(1500)))).toBe(1)
    expect(count(cut(1000), made(cut(1000, 3)))).toBe(1)
    expect(count(newBand('low-cut', 80), made(cut(80)))).toBe(1)
    expect(count(cut(1000), made(cut(1000), false))).toBe(1)
  })
})
