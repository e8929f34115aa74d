export { type FollowTimes, GainSmoother, type StaticCurve, staticGainDb } from './gain-computer'
export { UsualLevel } from './usual-level'
