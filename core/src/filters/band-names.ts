/** Kinds of equaliser filter. */
export const FILTER_TYPES = [
  'bell',
  'low-shelf',
  'high-shelf',
  'low-cut',
  'high-cut',
  'notch',
  'band-pass',
  'all-pass',
  'tilt',
] as const
export type FilterType = (typeof FILTER_TYPES)[number]

/** Which part of a stereo signal a band acts on. */
export const CHANNEL_MODES = ['stereo', 'mid', 'side', 'left', 'right'] as const
export type ChannelMode = (typeof CHANNEL_MODES)[number]

/** Accepted ranges of a band's values. */
export const BAND_LIMITS = {
  hz: [10, 40000],
  db: [-30, 24],
  q: [0.05, 1000],
  slopeDbPerOct: [6, 96],
} as const

/** Q of a Butterworth pair: the default corner of cuts and shelves. */
export const BUTTERWORTH_Q = Math.SQRT1_2

/** True for types whose gain can be set. */
export function hasGain(type: FilterType): boolean {
  return type === 'bell' || type === 'low-shelf' || type === 'high-shelf' || type === 'tilt'
}

/** True for types whose slope can be set. */
export function hasSlope(type: FilterType): boolean {
  return type === 'low-cut' || type === 'high-cut'
}

/** True for types whose width or corner can be set by Q. */
export function hasQ(type: FilterType): boolean {
  return type !== 'tilt'
}

/** How an equaliser treats phase (see `planPhase`). */
export const PHASE_NAMES = ['minimum', 'mixed', 'linear'] as const
