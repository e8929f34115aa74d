import type { WorkerPool } from '../work/worker-pool'
import type { MixBeds } from './mix-beds'

/** What nodes work with; it changes no result. */
export interface Tools {
  readonly pool: WorkerPool
  readonly beds: MixBeds
}
