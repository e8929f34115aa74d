import { type Band, makeBands } from '../spectrum'

/** Long-term levels are taken in sixths of an octave. */
export const LEVEL_BANDS: readonly Band[] = makeBands('sixth')
