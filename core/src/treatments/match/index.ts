import { TWELFTHS } from '../../match/profile'
import type { TreatmentForm } from '../kind'
import { type MatchParams, matchParams } from './params'

export { MATCH_TAPS, type MatchParams, SMOOTHING_OCTAVES } from './params'

const nothing = () => TWELFTHS.map(() => 0)

/** One long filter that brings a sound's long-term spectrum to another's. */
export const match: TreatmentForm<'match', MatchParams> = {
  kind: 'match',
  name: 'Match filter',
  params: matchParams,
  takesKey: false,
  defaults: () => ({
    target: '',
    haveDb: nothing(),
    wantDb: nothing(),
    weight: nothing(),
    zeroDb: 0,
    smoothing: 1 / 3,
    fromHz: 20,
    toHz: 20_000,
    mostBoostDb: 9,
    mostCutDb: 9,
    amount: 1,
    taps: 4096,
    phase: 'minimum',
    keepLoudness: true,
  }),
  file: { params: matchParams, read: (file) => file, write: (params) => params },
  acts: ({ weight, amount, mostBoostDb, mostCutDb }) =>
    amount > 0 && (mostBoostDb > 0 || mostCutDb > 0) && weight.some((w) => w > 0),
  describe: ({ target, amount, phase }) =>
    `${target === '' ? 'no target yet' : `to ${target}`}, ${Math.round(100 * amount)} %, ${phase} phase`,
}
