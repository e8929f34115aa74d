import type { Role, Session } from '@sober-prism/core/session'
import { routedNode } from '@sober-prism/core/session'
import {
  type DuckParams,
  type FollowBand,
  newFollowBand,
  type Treatment,
} from '@sober-prism/core/treatments'

/** What is made room for: settings to begin with, common practice, to be moved by ear. */
interface StartingPoint {
  readonly name: string
  /** Roles of a key that it is for. */
  readonly roles: readonly Role[]
  /** Frequency, range in dB and Q of each band. */
  readonly bands: readonly (readonly [number, number, number])[]
  readonly attackMs: number
  readonly releaseMs: number
  readonly bank: Pick<DuckParams, 'fromHz' | 'toHz' | 'depthDb'>
}

export const STARTING_POINTS: readonly StartingPoint[] = [
  {
    name: 'A singing voice',
    roles: ['voice'],
    bands: [
      [320, -2, 0.8],
      [1200, -3, 0.9],
      [3000, -3, 1],
    ],
    attackMs: 15,
    releaseMs: 180,
    bank: { fromHz: 180, toHz: 10_000, depthDb: 5 },
  },
  {
    name: 'Speech',
    roles: ['speech'],
    bands: [
      [250, -2, 0.8],
      [1500, -4, 0.8],
      [3500, -3, 1],
    ],
    attackMs: 8,
    releaseMs: 250,
    bank: { fromHz: 120, toHz: 9000, depthDb: 6 },
  },
  {
    name: 'A guitar',
    roles: ['guitar', 'strings'],
    bands: [
      [400, -2, 0.8],
      [2200, -3, 1],
    ],
    attackMs: 12,
    releaseMs: 140,
    bank: { fromHz: 120, toHz: 8000, depthDb: 4 },
  },
  {
    name: 'Keys',
    roles: ['keys', 'winds'],
    bands: [
      [350, -2, 0.8],
      [1100, -3, 0.9],
    ],
    attackMs: 15,
    releaseMs: 160,
    bank: { fromHz: 100, toHz: 8000, depthDb: 4 },
  },
  {
    name: 'A bass',
    roles: ['bass'],
    bands: [
      [80, -4, 1],
      [170, -2, 1],
    ],
    attackMs: 25,
    releaseMs: 220,
    bank: { fromHz: 40, toHz: 400, depthDb: 5 },
  },
  {
    name: 'A kick',
    roles: [],
    bands: [
      [60, -5, 1.2],
      [3000, -2, 1],
    ],
    attackMs: 5,
    releaseMs: 90,
    bank: { fromHz: 35, toHz: 200, depthDb: 6 },
  },
  {
    name: 'Drums',
    roles: ['drums'],
    bands: [
      [200, -2, 0.8],
      [4500, -3, 0.8],
    ],
    attackMs: 5,
    releaseMs: 80,
    bank: { fromHz: 100, toHz: 12_000, depthDb: 4 },
  },
  {
    name: 'A whole bed under a voice',
    roles: [],
    bands: [
      [250, -2, 0.7],
      [700, -3, 0.8],
      [1800, -4, 0.8],
      [4000, -3, 0.9],
    ],
    attackMs: 20,
    releaseMs: 350,
    bank: { fromHz: 150, toHz: 9000, depthDb: 6 },
  },
]

/** The starting point for what a treatment listens to, by its role; null where none is for it. */
export function pointForKey(session: Session, { key }: Treatment): StartingPoint | null {
  const node = key && routedNode(session, key.node)
  if (!node || !('role' in node)) return null
  return STARTING_POINTS.find((p) => p.roles.includes(node.role)) ?? null
}

/** Bands of a starting point. */
export function bandsOf({ bands, attackMs, releaseMs }: StartingPoint): FollowBand[] {
  return bands.map(([hz, rangeDb, q]) =>
    newFollowBand(crypto.randomUUID(), { hz, rangeDb, q, attackMs, releaseMs }),
  )
}
