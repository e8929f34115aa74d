export { type FollowTimes, GainSmoother, type StaticCurve, staticGainDb } from './gain-computer'
export { type BellPlace, MovingBells, settle } from './moving-bells'
export { UsualLevel } from './usual-level'
