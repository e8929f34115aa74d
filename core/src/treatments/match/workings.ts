import { drawnDb } from '../../filters'
import { correctionOf, loudnessChange, TWELFTHS } from '../../match'
import { matchFir } from '../../match/match-fir'
import { type KernelDesign, kernelWorkings } from '../kernel-processor'
import type { TreatmentWorkings } from '../kind'
import type { MatchParams } from './params'

/** How the sound of `match` is made. */
export const matchWorkings: TreatmentWorkings<MatchParams, KernelDesign> = {
  ...kernelWorkings,
  design(params, sampleRateHz) {
    const db = correctionOf(params, params, params.zeroDb)
    const trim = params.keepLoudness ? -loudnessChange(params.haveDb, db) : 0
    const points = TWELFTHS.map(({ hz }, i) => ({ hz, db: db[i] + trim }))
    const curve = drawnDb({ points, joining: 'smooth', axis: 'log' })
    const { taps, latency } = matchFir(curve, params.taps, params.phase, sampleRateHz)
    const { target: _, ...rest } = params
    return { key: `${sampleRateHz} ${JSON.stringify(rest)}`, kernel: taps, delay: latency }
  },
}
