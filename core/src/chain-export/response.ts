import { logFrequencies, readFilter } from '../filters'
import type { Chain } from '../session'
import { traitWords } from '../session'
import { activeBands, kindOf, respondChain, type Treatment, workingsOf } from '../treatments'
import type { ChainText } from './commands'

const POINTS = 481

/** Treatments that have one response, and those that move from moment to moment, in words. */
export function steadyPart(treatments: readonly Treatment[]) {
  const on = treatments.filter((t) => t.on)
  const steady = on.filter((t) => workingsOf(t.kind).response !== null)
  const moving = on.filter((t) => !steady.includes(t))
  return {
    steady,
    notSaid: moving.map((t) => {
      const { name, describe } = kindOf(t.kind)
      return `${name} (${describe(t.params)}): it moves with the sound`
    }),
  }
}

/**
 * A chain's magnitude in dB, phase in degrees and group delay in ms over frequency, as comma-separated values: of a sound in
 * the middle, and of the sides where they are treated otherwise. Latency is taken out, the output is in it.
 */
export function chainCsv(chain: Chain, rateHz: number): ChainText {
  const { steady, notSaid } = steadyPart(chain.treatments)
  const hz = logFrequencies(POINTS).filter((f) => f < 0.499 * rateHz)
  const inverted = chain.output.polarity === 'inverted'
  const read = (part: 'mid' | 'side') => {
    const { filter, sign, delayFrames } = respondChain(steady, rateHz, part)
    const turned = (sign === -1) !== inverted
    return readFilter(filter, hz, rateHz).map((r) => {
      const phase = r.phaseDeg + (turned ? 180 : 0) - (360 * r.hz * delayFrames) / rateHz
      return [
        r.db + chain.output.gainDb,
        phase - 360 * Math.round(phase / 360),
        r.groupDelayMs + (1000 * delayFrames) / rateHz,
      ]
    })
  }
  const [middle, sides] = [read('mid'), read('side')]
  const isSame = middle.every((row, i) => row.every((v, k) => Math.abs(v - sides[i][k]) < 1e-6))
  const header = ['hz', 'db', 'phase_deg', 'group_delay_ms']
  const more = isSame ? [] : ['sides_db', 'sides_phase_deg', 'sides_group_delay_ms']
  const rows = Array.from(hz, (f, i) => {
    const values = isSame ? middle[i] : [...middle[i], ...sides[i]]
    return [f.toFixed(3), ...values.map((v) => v.toFixed(5))].join(',')
  })
  return {
    text: `${[[...header, ...more].join(','), ...rows].join('\n')}\n`,
    worstDeviationDb: null,
    notSaid,
  }
}

/** The bands of a chain as a list to type in elsewhere, in the order of the sound. */
export function chainList(chain: Chain): ChainText {
  const lines: string[] = []
  const notSaid: string[] = []
  let count = 0
  for (const treatment of chain.treatments) {
    if (!treatment.on) continue
    const { name, describe } = kindOf(treatment.kind)
    if (treatment.kind !== 'equaliser') {
      lines.push(`${name}: ${describe(treatment.params)}`)
      notSaid.push(`${name}: in words only`)
      continue
    }
    const { phase } = treatment.params
    lines.push(`Equaliser, ${phase} phase`)
    for (const { band } of activeBands(treatment.params)) {
      const slope = /cut$/.test(band.type)
        ? `, ${band.slopeDbPerOct} dB per octave (order ${band.slopeDbPerOct / 6})`
        : ''
      const q = /shelf$/.test(band.type) ? `, Q ${band.q.toFixed(2)}` : ''
      const side = band.channel === 'stereo' ? '' : `, ${band.channel} only`
      const words = traitWords({ of: 'band', band, on: true })
      lines.push(`${String(++count).padStart(3)}  ${words}${q}${slope}${side}`)
    }
  }
  const { gainDb, polarity } = chain.output
  if (gainDb !== 0) lines.push(`Output ${gainDb > 0 ? '+' : ''}${gainDb.toFixed(1)} dB`)
  if (polarity === 'inverted') lines.push('Polarity inverted')
  const legend =
    'Q of a bell: bandwidth at half its gain in dB (Audio EQ Cookbook), alike for cuts and boosts. Cuts at the ends are Butterworth.'
  const text = lines.length > 0 ? `${[...lines, '', legend].join('\n')}\n` : 'Nothing is treated.\n'
  return { text, worstDeviationDb: null, notSaid }
}
