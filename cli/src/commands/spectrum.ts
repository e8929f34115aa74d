import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import { parseCall } from '../arguments'
import { cutSeconds, readClip } from '../files'
import type { Command } from '../run'
import { figure, formatTable } from '../table'

const SPEC = {
  usage: 'spectrum FILE [--bands third|sixth|twelfth|erb] [--from S --to S] [--json]',
  options: { bands: 'string', from: 'string', to: 'string' },
  files: { min: 1, max: 1 },
} as const

/** `prism spectrum`: long-term level per band. */
export const spectrum: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const layout = call.choice('bands', ['third', 'sixth', 'twelfth', 'erb'], 'third')
  const from = call.number('from')
  const to = call.number('to')
  const [file] = call.files
  const clip = cutSeconds(await readClip(around.cwd, file), file, from, to)
  const bands = makeBands(layout).filter((b) => b.toHz < clip.sampleRateHz / 2)
  const levels = longTermLevels(clip, bands, true)
  const result = bands.map((band, i) => ({ hz: band.hz, db: levels[i] }))
  around.out(
    call.json
      ? `${JSON.stringify({ file, bands: result })}\n`
      : formatTable([['Hz', 'dB'], ...result.map(({ hz, db }) => [figure(hz), figure(db)])]),
  )
}
