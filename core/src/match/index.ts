export {
  type CorrectionSettings,
  loudnessChange,
  pairOf,
  type SpectrumPair,
  trustOf,
  USUAL_CORRECTION,
} from './correction'
export { DecayMeter } from './decay-meter'
export { type FitSettings, type FittedBands, fitBands } from './fit-bands'
export { INVENTED_RESPONSES } from './invented-responses'
export {
  ALIKE_DB,
  correctionOf,
  fewestBands,
  type MatchByBands,
  type MatchWays,
  MOST_MATCH_BANDS,
  matchByBands,
  matchWays,
  responseWays,
  zeroOf,
} from './match'
export { INAUDIBLE_NOISE_DB, type NotMatched, noiseOf, notMatched, widthOf } from './not-matched'
export {
  PassageMeter,
  type PassageReading,
  QUIET_PASSAGE_DB,
  SHORTEST_PASSAGE_SECONDS,
  UNLIKE_PASSAGE_DB,
} from './passage'
export {
  mergeProfiles,
  PROFILE_SUBJECTS,
  type Profile,
  ProfileError,
  type ProfileSubject,
  type ProfileTitle,
  profileSchema,
  SHORTEST_PROFILE_SECONDS,
  THIRDS,
  TWELFTHS,
} from './profile'
export { measureProfile, ProfileMeter } from './profile-meter'
export { pairOfResponses, type Response } from './response-pair'
export { isShapedBy, type SameShape, type ShapeWay, sameShape } from './same-shape'
