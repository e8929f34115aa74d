export { PLAYBACKS, type Playback, parsePlayback } from './description'
export { equalLoudnessDb } from './equal-loudness'
export { matchPlaybackLevels } from './match-levels'
export { PLAIN_LEVELS, type PlaybackLevels, PlaybackRun } from './playback-run'
export {
  describedDb,
  makePlayback,
  meanDb,
  type PlaybackResponse,
  recordedPlayback,
  responsePoints,
  thirdsOf,
} from './response'
