export { announcementMakers } from './announcement'
export {
  DEMO_SEED,
  type Faults,
  faultsOf,
  PLANTED,
  type Planted,
  type PlantedKind,
  plantedTable,
} from './planted'
export { type DemoReference, referenceMakers } from './references'
export { type DemoOptions, type DemoTrack, waltzMakers } from './scenario'
export {
  type DemoClip,
  demoClips,
  demoReferences,
  type Scored,
  scoreFindings,
  scoreSession,
} from './score-findings'
export { RATE_HZ } from './sound'
