import {
  heldBands,
  profileLevels,
  profileTarget,
  readBalance,
  slopeTarget,
} from '@sober-prism/core/findings'
import { writeEqFile } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { applyAsLoud } from '../kept-loudness'
import { profileOf, readTarget, titleOf } from '../match-input'
import type { Command } from '../run'
import { figure, formatTable } from '../table'
import { BITS } from '../write-audio'

const SPEC = {
  usage: 'balance FILE [--to P.json|slope] [--apply OUT.wav] [--bits 16|24|32f] [--force] [--json]',
  options: { to: 'string', apply: 'string', bits: 'string' },
  files: { min: 1, max: 1 },
} as const

/** `prism balance`: where a sound stands out of a target in broad regions, and gentle bands against half of that. */
export const balance: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const to = call.text('to') ?? 'slope'
  const targetProfile = to === 'slope' ? null : await readTarget(around, to)
  const target = targetProfile ? profileTarget(targetProfile) : slopeTarget()
  const profile = await profileOf(around, file, { name: titleOf(file) })
  const found = readBalance(
    profileLevels(profile),
    target,
    heldBands(profile, targetProfile),
  ).regions
  const bands = found.map((r) => r.band).filter((b) => b.db !== 0)
  const out = call.text('apply')
  if (out !== undefined) {
    const chainBands = bands.map((band, i) => newChainBand(`${i}`, band))
    const equaliser = newTreatment('equaliser', 'balance', 'shape', {
      phase: 'minimum',
      bands: chainBands,
    })
    await applyAsLoud(around, file, out, [equaliser], { force: call.force, bits })
  }
  around.progress('')
  const regions = found.map(({ fromHz, toHz, deviationDb, toleranceDb }) => {
    return { fromHz, toHz, db: deviationDb, toleranceDb }
  })
  if (call.json) {
    around.out(`${JSON.stringify({ regions, eq: JSON.parse(writeEqFile(bands)) })}\n`)
    return
  }
  if (regions.length === 0) around.out('Everything is within tolerance.\n')
  else {
    around.out(
      formatTable(
        found.map(({ fromHz, toHz, deviationDb, toleranceDb, band }) => [
          `${figure(fromHz, 0)} to ${figure(toHz, 0)} Hz`,
          `${figure(deviationDb)} dB`,
          `tolerance ${figure(toleranceDb)} dB`,
          `${band.type} ${figure(band.hz, 0)} Hz ${figure(band.db)} dB`,
        ]),
      ),
    )
  }
}
