export { announcementMakers } from './announcement'
export { turnPhase } from './phase-turn'
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
  scoreAgainst,
  scoreFindings,
  scoreSession,
} from './score-findings'
export { addInto, band, partRandom, RATE_HZ, shape } from './sound'
