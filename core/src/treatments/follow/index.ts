import type { TreatmentForm } from '../kind'
import { type FollowParams, followParams } from './params'

export {
  FOLLOW_KNEE_DB,
  FOLLOW_TYPES,
  type FollowBand,
  type FollowParams,
  followFilters,
  MOST_FOLLOW_BANDS,
  newFollowBand,
} from './params'

/** Bands that give way, or come forward, while what is listened to is loud in them. */
export const follow: TreatmentForm<'follow', FollowParams> = {
  kind: 'follow',
  name: 'Dynamic EQ',
  params: followParams,
  takesKey: true,
  defaults: () => ({ bands: [], lookAheadMs: 0, blend: 1, keyDb: 0, outputDb: 0 }),
  file: { params: followParams, read: (file) => file, write: (params) => params },
  acts: ({ bands, outputDb }) => outputDb !== 0 || bands.some((b) => b.on && b.rangeDb !== 0),
  describe({ bands }) {
    const on = bands.filter((b) => b.on)
    if (on.length === 0) return 'no band yet'
    const deepest = on.reduce((a, b) => (Math.abs(b.rangeDb) > Math.abs(a) ? b.rangeDb : a), 0)
    const count = on.length === 1 ? '1 band' : `${on.length} bands`
    return `${count}, up to ${deepest < 0 ? '−' : '+'}${Math.abs(deepest).toFixed(1)} dB`
  },
}
