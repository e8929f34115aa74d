import * as z from 'zod'
import { ROLES } from '../session/names'
import { makeBands } from '../spectrum'

/** What a profile may be of: a whole mix, or one kind of source. */
export const PROFILE_SUBJECTS = ['mix', ...ROLES] as const

/** Bands that profiles hold their finest figures in. */
export const TWELFTHS = makeBands('twelfth')
/** Bands that profiles hold what changes over time in. */
export const THIRDS = makeBands('third')

/** Less than this says nothing about a sound in the long run: PRODUCT.md, G3. */
export const SHORTEST_PROFILE_SECONDS = 8

/** Lowest level that is written: silence of a band. */
export const LEAST_PROFILE_DB = -200

const db = z.number().min(LEAST_PROFILE_DB).max(60)
const spread = z.number().min(0).max(100)
const per = <T extends z.ZodType>(bands: readonly unknown[], value: T) =>
  z.array(value).length(bands.length)

/**
 * What is known of a recording in the long run; never its sound. Levels are in dB re a mean square of 1, as measured;
 * the loudness to bring two profiles to the same level stands beside them.
 */
export const profileSchema = z.strictObject({
  version: z.literal(1),
  name: z.string().min(1).max(200),
  subject: z.enum(PROFILE_SUBJECTS),
  words: z.string().max(1000),
  tags: z.array(z.string().min(1).max(40)).max(20),
  seconds: z.number().min(SHORTEST_PROFILE_SECONDS).max(1e6),
  /** Upper end of what its sample rate could hold. */
  topHz: z.number().min(1000).max(400_000),
  /** How many recordings stand behind it. */
  recordings: z.int().min(1).max(1000),
  loudness: z.strictObject({
    integratedLufs: z.number().min(-70).max(30),
    rangeLu: z.number().min(0).max(100).nullable(),
    /** Peak over mean power, in dB. */
    crestDb: spread,
  }),
  /** Twelfths of an octave: mean level, and how far recordings, or moments of one, differ from it (dB, one sigma). */
  twelfths: z.strictObject({ meanDb: per(TWELFTHS, db), spreadDb: per(TWELFTHS, spread) }),
  thirds: z.strictObject({
    meanDb: per(THIRDS, db),
    maxDb: per(THIRDS, db),
    spreadDb: per(THIRDS, spread),
    /** Peak over mean power in the octave around it. */
    crestDb: per(THIRDS, spread),
    /** Level of the pauses; null for a sound without any. */
    noiseDb: per(THIRDS, db).nullable(),
    /** Level of the quietest moments between sounds: noise lies no higher; null where it never pauses. */
    quietDb: per(THIRDS, db).nullable().default(null),
    /** Sides over middle, in dB; {@link LEAST_PROFILE_DB} for mono. */
    widthDb: per(
      THIRDS,
      z
        .number()
        .min(LEAST_PROFILE_DB)
        .max(LEAST_PROFILE_DB * -1),
    ),
    /** Of left and right, -1 to 1. */
    correlation: per(THIRDS, z.number().min(-1).max(1)),
  }),
  /** Time in which the sound dies away by 60 dB after it stops; null where that cannot be told. */
  decaySeconds: z.number().min(0).max(60).nullable(),
})
export type Profile = z.infer<typeof profileSchema>
export type ProfileSubject = Profile['subject']

/** What a profile is called by its maker; the rest is measured. */
export interface ProfileTitle {
  readonly name: string
  readonly subject?: ProfileSubject
  readonly words?: string
  readonly tags?: readonly string[]
}

/** Why no profile can be made, as a sentence. */
export class ProfileError extends Error {}

/**
 * Several profiles as one target: each at the same loudness, their mean, and their spread as tolerance (the standard
 * deviation over recordings in place of that over time). Of one, that one.
 * @throws ProfileError when there is none.
 */
export function mergeProfiles(profiles: readonly Profile[], title: ProfileTitle): Profile {
  const [first] = profiles
  if (!first) throw new ProfileError('A profile is made of at least one recording.')
  if (profiles.length === 1) return { ...first, ...titled(title, first) }
  const lufs = mean(profiles.map((p) => p.loudness.integratedLufs))
  const shift = profiles.map((p) => lufs - p.loudness.integratedLufs)
  const over = (pick: (p: Profile) => readonly number[], moved: boolean) =>
    pick(first).map((_, i) => profiles.map((p, n) => pick(p)[i] + (moved ? shift[n] : 0)))
  const means = (pick: (p: Profile) => readonly number[], moved = false) =>
    over(pick, moved).map(mean)
  const spreads = (pick: (p: Profile) => readonly number[]) => over(pick, true).map(deviation)
  const known = <T>(values: readonly (T | null)[]) => values.filter((v): v is T => v !== null)
  const ranges = known(profiles.map((p) => p.loudness.rangeLu))
  const decays = known(profiles.map((p) => p.decaySeconds))
  const ofAll = (pick: (p: Profile) => readonly number[] | null) =>
    profiles.some((p) => pick(p) === null) ? null : means((p) => pick(p) ?? [], true).map(atLeast)
  return {
    version: 1,
    ...titled(title, first),
    seconds: profiles.reduce((sum, p) => sum + p.seconds, 0),
    topHz: Math.min(...profiles.map((p) => p.topHz)),
    recordings: profiles.reduce((sum, p) => sum + p.recordings, 0),
    loudness: {
      integratedLufs: lufs,
      rangeLu: ranges.length > 0 ? mean(ranges) : null,
      crestDb: mean(profiles.map((p) => p.loudness.crestDb)),
    },
    twelfths: {
      meanDb: means((p) => p.twelfths.meanDb, true).map(atLeast),
      spreadDb: spreads((p) => p.twelfths.meanDb),
    },
    thirds: {
      meanDb: means((p) => p.thirds.meanDb, true).map(atLeast),
      maxDb: means((p) => p.thirds.maxDb, true).map(atLeast),
      spreadDb: spreads((p) => p.thirds.meanDb),
      crestDb: means((p) => p.thirds.crestDb),
      noiseDb: ofAll((p) => p.thirds.noiseDb),
      quietDb: ofAll((p) => p.thirds.quietDb),
      widthDb: means((p) => p.thirds.widthDb),
      correlation: means((p) => p.thirds.correlation),
    },
    decaySeconds: decays.length > 0 ? mean(decays) : null,
  }
}

function titled(
  { name, subject, words, tags }: ProfileTitle,
  first: Profile,
): Pick<Profile, 'name' | 'subject' | 'words' | 'tags'> {
  return {
    name,
    subject: subject ?? first.subject,
    words: words ?? first.words,
    tags: [...(tags ?? first.tags)],
  }
}

function atLeast(level: number): number {
  return Math.max(LEAST_PROFILE_DB, level)
}

function mean(values: readonly number[]): number {
  return values.reduce((a, v) => a + v, 0) / values.length
}

/** Of a sample: with one less than the number of values. */
function deviation(values: readonly number[]): number {
  const m = mean(values)
  return Math.sqrt(values.reduce((a, v) => a + (v - m) ** 2, 0) / (values.length - 1))
}
