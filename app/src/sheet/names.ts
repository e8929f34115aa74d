import type { ChannelMode, FilterType } from '@sober-prism/core/filters'
import type { StageName } from '@sober-prism/core/treatments'

export const TYPE_NAMES: Readonly<Record<FilterType, string>> = {
  bell: 'Bell',
  'low-shelf': 'Low shelf',
  'high-shelf': 'High shelf',
  'low-cut': 'Low cut',
  'high-cut': 'High cut',
  notch: 'Notch',
  'band-pass': 'Band-pass',
  'all-pass': 'All-pass',
  tilt: 'Tilt',
}

export const CHANNEL_NAMES: Readonly<Record<ChannelMode, string>> = {
  stereo: 'Stereo',
  mid: 'Mid',
  side: 'Side',
  left: 'Left',
  right: 'Right',
}

export const STAGE_NAMES: Readonly<Record<StageName, string>> = {
  clean: 'Clean',
  fit: 'Fit',
  shape: 'Shape',
}
