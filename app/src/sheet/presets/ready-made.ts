import { type EqBand, newBand } from '@sober-prism/core/filters'
import type { Preset } from '@sober-prism/core/session'
import {
  newChainBand,
  newTreatment,
  type StageName,
  type Treatment,
} from '@sober-prism/core/treatments'

type BandOf = readonly [EqBand['type'], number, Partial<EqBand>]

function equaliser(stage: StageName, bands: readonly BandOf[]): Treatment {
  return newTreatment('equaliser', 'e', stage, {
    phase: 'minimum',
    bands: bands.map(([type, hz, values], i) =>
      newChainBand(`b${i}`, { ...newBand(type, hz), ...values }),
    ),
  })
}

function drawn(points: readonly (readonly [number, number])[]): Treatment {
  const { params } = newTreatment('drawn-curve', 'd', 'shape')
  return newTreatment('drawn-curve', 'd', 'shape', {
    ...params,
    points: points.map(([hz, db]) => ({ hz, db })),
  })
}

const one = (
  name: string,
  words: string,
  tags: readonly string[],
  treatment: Treatment,
): Preset => ({ name, words, tags, scope: 'treatment', treatments: [treatment] })

/** Places to begin, each an ordinary treatment: common practice, to be moved by ear. */
export const READY_MADE: readonly Preset[] = [
  one(
    'Rumble below a low voice',
    'Cuts below 65 Hz. Look at the lowest note before you go higher.',
    ['voice', 'clean'],
    equaliser('clean', [['low-cut', 65, { slopeDbPerOct: 24 }]]),
  ),
  one(
    'Rumble below a high voice',
    'Cuts below 135 Hz.',
    ['voice', 'clean'],
    equaliser('clean', [['low-cut', 135, { slopeDbPerOct: 24 }]]),
  ),
  one(
    'Boxy',
    'A broad −3 dB around 350 Hz, where small rooms and close walls build up.',
    ['voice', 'guitar', 'drums'],
    equaliser('shape', [['bell', 350, { db: -3, q: 1 }]]),
  ),
  one(
    'Build-up below the mids',
    'A broad −2 dB around 280 Hz, for one of several parts that meet there.',
    ['keys', 'guitar', 'fit'],
    equaliser('fit', [['bell', 280, { db: -2, q: 0.8 }]]),
  ),
  one(
    'Pokes the ear',
    'A little less between 2 and 4 kHz.',
    ['voice', 'strings'],
    equaliser('clean', [['bell', 2900, { db: -2.5, q: 1.2 }]]),
  ),
  one(
    'Clear above the sibilants',
    'A shelf from 11 kHz up, above where S and T are sharp.',
    ['voice', 'speech'],
    equaliser('shape', [['high-shelf', 11_000, { db: 2.5, q: 0.7 }]]),
  ),
  one(
    'Mono below 120 Hz',
    'Removes the side signal at the bottom; nothing changes above.',
    ['mix', 'bass'],
    newTreatment('low-middle', 'm', 'fit', { hz: 120, slopeDbPerOct: 24, from: 'both' }),
  ),
  one(
    'A voice line',
    '300 to 3400 Hz, as over a wire.',
    ['effect', 'speech'],
    drawn([
      [220, -60],
      [300, 0],
      [3400, 0],
      [4400, -60],
    ]),
  ),
  one(
    'Through a wall',
    'What is left of a sound in the next room.',
    ['effect'],
    drawn([
      [60, 0],
      [200, -6],
      [700, -24],
      [3000, -48],
      [9000, -60],
    ]),
  ),
  {
    name: 'Speech, ready to be placed',
    words: 'Less rumble, a little less box, a little more air: three small moves to start from.',
    tags: ['speech', 'voice'],
    scope: 'chain',
    treatments: [
      equaliser('clean', [['low-cut', 80, { slopeDbPerOct: 24 }]]),
      {
        ...equaliser('shape', [
          ['bell', 350, { db: -2, q: 1 }],
          ['high-shelf', 11_000, { db: 1.5, q: 0.7 }],
        ]),
        id: 's',
      },
    ],
  },
]
