import { type Biquad, designBand, logFrequencies, sectionsDb } from '../filters'
import type { Chain } from '../session'
import { activeBands, kindOf, newTreatment, respondChain, type Treatment } from '../treatments'

/** A chain in a form that others can use. */
export interface ChainText {
  readonly text: string
  /** How far it is at most from what it says of the chain, 20 Hz to 18 kHz, in dB; null where that has no meaning. */
  readonly worstDeviationDb: number | null
  /** What of the chain it does not say, one sentence each. */
  readonly notSaid: readonly string[]
}

export type CommandTool = 'ffmpeg' | 'sox'

/** A recursive section with the channel that it is for. */
interface Step {
  readonly section: Biquad
  readonly channel: 'stereo' | 'left' | 'right'
}

const TO_HZ = 18_000
const READINGS = 400
/** Less than this is no boost. */
const LEAST_BOOST_DB = 0.05
/** Digits of a coefficient: a narrow filter at low frequencies needs them. */
const DIGITS = 15

type Equaliser = Extract<Treatment, { kind: 'equaliser' }>

/** What commands can say of a chain: the bands of its equalisers, in order, and its output. */
function sayable(chain: Chain, tool: CommandTool) {
  const notSaid: string[] = []
  const said: Equaliser[] = []
  for (const treatment of chain.treatments) {
    if (!treatment.on) continue
    const { name, describe } = kindOf(treatment.kind)
    if (treatment.kind !== 'equaliser') {
      notSaid.push(`${name} (${describe(treatment.params)})`)
      continue
    }
    const { phase } = treatment.params
    if (phase !== 'minimum') {
      notSaid.push(`the ${phase} phase of an equaliser: its bands are given in minimum phase`)
    }
    const bands = activeBands(treatment.params).filter(({ band: { channel } }) => {
      if (channel === 'stereo') return true
      return tool === 'ffmpeg' && (channel === 'left' || channel === 'right')
    })
    const left = activeBands(treatment.params).length - bands.length
    if (left > 0) {
      const what = left === 1 ? 'one band' : `${left} bands`
      notSaid.push(
        `${what} of an equaliser that ${left === 1 ? 'is' : 'are'} not for both channels alike`,
      )
    }
    said.push(newTreatment('equaliser', treatment.id, treatment.stage, { phase, bands }))
  }
  return { said, notSaid }
}

function stepsOf(said: readonly Equaliser[], rateHz: number): Step[] {
  return said.flatMap(({ params }) =>
    params.bands.flatMap(({ band }) =>
      designBand({ ...band, channel: 'stereo' }, rateHz)
        .filter(acts)
        .map((section) => ({
          section,
          channel: band.channel === 'left' || band.channel === 'right' ? band.channel : 'stereo',
        })),
    ),
  )
}

/** Designs are filled up with sections that do nothing. */
const acts = ({ b0, b1, b2, a1, a2 }: Biquad) => b0 !== 1 || b1 !== a1 || b2 !== a2

/**
 * A command line that does what a chain's equalisers do, section by section with the coefficients themselves: for files at
 * one rate, to which it resamples.
 * @throws RangeError where a band lies above half the rate.
 */
export function chainCommand(chain: Chain, tool: CommandTool, rateHz: number): ChainText {
  const { said, notSaid } = sayable(chain, tool)
  const steps = stepsOf(said, rateHz)
  const sign = chain.output.polarity === 'inverted' ? -1 : 1
  const gain = sign * 10 ** (chain.output.gainDb / 20)
  const text = tool === 'ffmpeg' ? ffmpegLine(steps, gain, rateHz) : soxLine(steps, gain, rateHz)
  return { text, worstDeviationDb: deviation(text, tool, chain, said, rateHz), notSaid }
}

const figure = (value: number) => `${Number(value.toPrecision(DIGITS))}`

function ffmpegLine(steps: readonly Step[], gain: number, rateHz: number): string {
  const biquad = ({ b0, b1, b2, a1, a2 }: Biquad, channel: Step['channel']) => {
    const values = { b0, b1, b2, a0: 1, a1, a2 }
    const named = Object.entries(values).map(([name, v]) => `${name}=${figure(v)}`)
    const side = { stereo: [], left: ['channels=FL'], right: ['channels=FR'] }[channel]
    return `biquad=${[...named, ...side].join(':')}`
  }
  const filters = [
    `aresample=${rateHz}`,
    // In double precision, so that nothing clips or rounds on the way.
    'aformat=sample_fmts=dblp',
    ...steps.map((s) => biquad(s.section, s.channel)),
    ...(gain === 1 ? [] : [biquad({ b0: gain, b1: 0, b2: 0, a1: 0, a2: 0 }, 'stereo')]),
  ]
  return `ffmpeg -i IN.wav -af "${filters.join(',')}" -c:a pcm_f32le OUT.wav`
}

function soxLine(steps: readonly Step[], gain: number, rateHz: number): string {
  const biquad = ({ b0, b1, b2, a1, a2 }: Biquad) =>
    `biquad ${[b0, b1, b2, 1, a1, a2].map(figure).join(' ')}`
  // Between effects it works in whole numbers that clip: it goes down by what the sections may raise, and up again.
  const headroom = headroomDb(
    steps.map((s) => s.section),
    rateHz,
  )
  const effects = [
    `rate -v ${rateHz}`,
    ...(headroom > 0 ? [`gain ${-headroom}`] : []),
    ...steps.map((s) => biquad(s.section)),
    ...(gain === 1 ? [] : [biquad({ b0: gain, b1: 0, b2: 0, a1: 0, a2: 0 })]),
    ...(headroom > 0 ? [`gain ${headroom}`] : []),
  ]
  return `sox IN.wav -e floating-point -b 32 OUT.wav ${effects.join(' ')}`
}

/** Most that a run of sections raises any frequency by, after any of them, in whole dB. */
function headroomDb(sections: readonly Biquad[], rateHz: number): number {
  let most = 0
  for (const hz of logFrequencies(READINGS)) {
    if (hz >= rateHz / 2) continue
    let sum = 0
    for (const section of sections) {
      sum += sectionsDb([section], hz, rateHz)
      most = Math.max(most, sum)
    }
  }
  // Transients rise a little further than any steady tone.
  return most > LEAST_BOOST_DB ? Math.ceil(most) + 3 : 0
}

/** Reads the sections of a line again, as they were written. */
export function sectionsInLine(text: string, tool: CommandTool): readonly Biquad[] {
  if (tool === 'sox') {
    return [...text.matchAll(/biquad ((?:\S+ ){5}\S+)/g)].map(([, list]) => {
      const [b0, b1, b2, a0, a1, a2] = list.split(' ').map(Number)
      return { b0: b0 / a0, b1: b1 / a0, b2: b2 / a0, a1: a1 / a0, a2: a2 / a0 }
    })
  }
  return [...text.matchAll(/biquad=([^,"]+)/g)].map(([, list]) => {
    const of = (name: string) => Number(new RegExp(`(?:^|:)${name}=([^:]+)`).exec(list)?.[1])
    return { b0: of('b0'), b1: of('b1'), b2: of('b2'), a1: of('a1'), a2: of('a2') }
  })
}

/** What the line does, from its own figures, against what the chain does. Bands of one channel alone are taken as for both. */
function deviation(
  text: string,
  tool: CommandTool,
  chain: Chain,
  said: readonly Equaliser[],
  rateHz: number,
): number {
  const sections = sectionsInLine(text, tool)
  const both = said.map(({ id, stage, params }) => {
    const bands = params.bands.map((b) => ({
      ...b,
      band: { ...b.band, channel: 'stereo' as const },
    }))
    return newTreatment('equaliser', id, stage, { ...params, bands })
  })
  const hz = logFrequencies(READINGS).filter((f) => f <= Math.min(TO_HZ, 0.49 * rateHz))
  const own = respondChain(both, rateHz, 'mid').db(hz)
  return hz.reduce((most, f, i) => {
    const here = sectionsDb(sections, f, rateHz)
    return Math.max(most, Math.abs(here - own[i] - chain.output.gainDb))
  }, 0)
}
