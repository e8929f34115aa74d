import { alignWorkings } from './align/workings'
import { broadStrokesWorkings } from './broad-strokes/workings'
import { drawnCurveWorkings } from './drawn-curve/workings'
import { driveWorkings } from './drive/workings'
import { duckWorkings } from './duck/workings'
import { equaliserWorkings } from './equaliser/workings'
import { followWorkings } from './follow/workings'
import type { AnyWorkings } from './kind'
import { levellerWorkings } from './leveller/workings'
import { lowMiddleWorkings } from './low-middle/workings'
import { matchWorkings } from './match/workings'
import type { KindName, KindRegistry } from './registry'
import { splitWorkings } from './split/workings'

/** How the sound of each kind is made: for mixers, designers and readers of responses. */
const WORKINGS: Record<KindName, unknown> = {
  equaliser: equaliserWorkings,
  align: alignWorkings,
  'low-middle': lowMiddleWorkings,
  'drawn-curve': drawnCurveWorkings,
  follow: followWorkings,
  duck: duckWorkings,
  match: matchWorkings,
  'broad-strokes': broadStrokesWorkings,
  drive: driveWorkings,
  leveller: levellerWorkings,
  split: splitWorkings(workingsOf),
}

/** The workings of a kind; of one that a test brings, its own. */
export function workingsOf(name: string, kinds?: KindRegistry): AnyWorkings {
  const own = kinds && Object.hasOwn(kinds, name) ? kinds[name] : null
  if (own && 'make' in own) return own as unknown as AnyWorkings
  if (!Object.hasOwn(WORKINGS, name)) {
    throw new RangeError(`There is no treatment of the kind "${name}".`)
  }
  return WORKINGS[name as KindName] as AnyWorkings
}
