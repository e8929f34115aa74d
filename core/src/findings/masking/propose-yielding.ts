import { type Clip, makeClip } from '../../audio'
import { type EqBand, newBand } from '../../filters'
import { pairMasking } from '../../hearing'
import { panGains, treatClip } from '../../mix'
import { longTermPower } from '../../spectrum'
import { newChainBand, newTreatment, type Treatment } from '../../treatments'
import { hearingOf, listenBeside, type PairHearing } from './hear-pair'
import { proposeFollow } from './propose-follow'

/** One way in which a sound may yield to a key, tried on both: a treatment, or a place aside of the middle. */
export type YieldOption = { readonly after: PairHearing } & YieldMove

type YieldMove =
  | { readonly kind: 'cut' | 'follow' | 'duck'; readonly treatment: Treatment }
  | { readonly kind: 'aside'; readonly pan: number }

/** Where a sound that stands in the middle may be put; null where it is to stay there. */
export type Aside = 'left' | 'right' | null

/** Ways to yield, the one to be taken first in front. */
export interface YieldProposal {
  readonly before: PairHearing
  readonly options: readonly YieldOption[]
}

const BANDS = 4
const RANGES_DB = [-3, -6] as const
/** A further decibel must win so much more of the key, in shares. */
const WORTH_SHARE = 0.004
/** A static cut is the first choice where it wins this part of what a moving one wins, for no more loss. */
const AS_WELL = 0.85
/** Nothing is proposed that wins less of the key than this. */
const LEAST_WIN = 0.01
/** Places aside, and what each must win of the key. What carries the low end stays in the middle. */
const PANS = [0.35, 0.7] as const
const WORTH_ASIDE = 0.01
const LOW_HZ = 200
const MOST_LOW = 0.3

/**
 * Tries a static cut, bands that follow and a bank that follows on two sounds of one passage, each with the smallest
 * range that is worth it, and says how both are heard then. The same processors as in the mix.
 * @param key and `yielding` at their levels in the mix, from the same start, at one rate, both in the middle of it.
 * @param aside the side to which the yielding sound may be panned.
 */
export async function proposeYielding(
  key: Clip,
  yielding: Clip,
  aside: Aside = null,
  onProgress: (share: number) => void = () => {},
): Promise<YieldProposal> {
  const listen = listenBeside(key, yielding.frames)
  const hear = (clip: Clip) => hearingOf(listen(clip))
  const sums = listen(yielding)
  const before = hearingOf(sums)
  const { lost } = pairMasking(sums, 0, 1)
  const steps = 3 * RANGES_DB.length + (aside ? 1 : 0)
  let done = 0
  const best = async (
    kind: 'cut' | 'follow' | 'duck',
    make: (rangeDb: number) => Treatment,
  ): Promise<YieldOption | null> => {
    let found: { option: YieldOption; rangeDb: number } | null = null
    for (const rangeDb of RANGES_DB) {
      const treatment = make(rangeDb)
      const after = hear(await treatClip(yielding, [treatment], key))
      onProgress(++done / steps)
      const from = found?.option.after ?? before
      const step = Math.abs(rangeDb - (found?.rangeDb ?? 0))
      if (after.keyHeard - from.keyHeard < WORTH_SHARE * step) break
      found = { option: { kind, treatment, after }, rangeDb }
    }
    return found && found.option.after.keyHeard - before.keyHeard >= LEAST_WIN ? found.option : null
  }
  const follows = (rangeDb: number) => proposeFollow(lost, { bands: BANDS, rangeDb })
  const options = [
    await best('cut', (rangeDb) =>
      cuts(follows(rangeDb).map(({ hz, q }) => ({ ...newBand('bell', hz), q, db: rangeDb }))),
    ),
    await best('follow', (rangeDb) => {
      const { params } = newTreatment('follow', 'proposed', 'fit')
      return newTreatment('follow', 'proposed', 'fit', { ...params, bands: follows(rangeDb) })
    }),
    await best('duck', (rangeDb) => {
      const { params } = newTreatment('duck', 'proposed', 'fit')
      return newTreatment('duck', 'proposed', 'fit', { ...params, depthDb: -rangeDb })
    }),
    bestAside(hear, yielding, before, aside),
  ].filter((o) => o !== null)
  return { before, options: inOrder(options, before) }
}

/** The nearest place aside that is worth it: over loudspeakers the ears tell apart what stands apart. */
function bestAside(
  hear: (clip: Clip) => PairHearing,
  yielding: Clip,
  before: PairHearing,
  aside: Aside,
): YieldOption | null {
  // A stereo sound that is turned aside loses one of its sides: that is a cut, and its width besides.
  if (!aside || yielding.channels.length > 1 || lowShare(yielding) > MOST_LOW) return null
  let found: YieldOption | null = null
  for (const amount of PANS) {
    const pan = aside === 'left' ? -amount : amount
    const after = hear(panned(yielding, pan))
    const from = found?.after ?? before
    if (after.keyHeard - from.keyHeard < WORTH_ASIDE) break
    found = { kind: 'aside', pan, after }
  }
  return found
}

/** A mono sound as it is panned in the mix. */
function panned({ sampleRateHz, channels: [channel] }: Clip, pan: number): Clip {
  return makeClip(
    sampleRateHz,
    panGains(pan, 1).map((gain) => channel.map((v) => v * gain)),
  )
}

/** Part of a sound's power below {@link LOW_HZ}. */
function lowShare(clip: Clip): number {
  const [low, rest] = longTermPower(clip, [
    { hz: LOW_HZ / 2, fromHz: 20, toHz: LOW_HZ },
    { hz: 1000, fromHz: LOW_HZ, toHz: 20_000 },
  ])
  return low / Math.max(1e-20, low + rest)
}

function cuts(bands: readonly EqBand[]): Treatment {
  const chainBands = bands.map((band, i) => newChainBand(`band-${i + 1}`, band))
  return newTreatment('equaliser', 'proposed', 'fit', { phase: 'minimum', bands: chainBands })
}

/** Static before moving where it does as well; else what wins most for what it costs. */
function inOrder(options: readonly YieldOption[], before: PairHearing): YieldOption[] {
  const win = (o: YieldOption) => o.after.keyHeard - before.keyHeard
  const loss = (o: YieldOption) => Math.max(0.01, before.yieldingSone - o.after.yieldingSone)
  // What stands aside loses nothing of its own; whether it may is a matter of taste, so that it is named last.
  const asides = options.filter((o) => o.kind === 'aside')
  const moving = options
    .filter((o) => o.kind !== 'cut' && o.kind !== 'aside')
    .sort((a, b) => win(b) / loss(b) - win(a) / loss(a))
  const cut = options.find((o) => o.kind === 'cut')
  if (!cut) return [...moving, ...asides]
  const isAsGood = moving.every(
    (o) => win(cut) >= AS_WELL * win(o) && loss(cut) <= loss(o) / AS_WELL,
  )
  return [...(isAsGood ? [cut, ...moving] : [...moving, cut]), ...asides]
}
