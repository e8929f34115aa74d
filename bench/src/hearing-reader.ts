import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { prepareHost } from '../../cli/src/host'
import { preparePlayers } from './real/players'
import { realSession } from './real/session'

/** Reads with the code in a folder, and prints, what `hearing-constants.ts` compares. */
const [folder] = process.argv.slice(2)
const hearing: typeof import('@sober-prism/core/hearing') = await import(
  `${folder}/hearing/index.ts`
)
const findings: typeof import('@sober-prism/core/findings') = await import(
  `${folder}/findings/index.ts`
)
const spectrum: typeof import('@sober-prism/core/spectrum') = await import(
  `${folder}/spectrum/index.ts`
)
prepareHost()
// The copy has a transform of its own to be given; its other kernels have plain forms.
const module = createRequire(import.meta.url)
  .resolve('@echogarden/pffft-wasm/simd')
  .replace(/\.js$/, '.wasm')
const host = WebAssembly as unknown as import('@sober-prism/core/spectrum').WasmHost
spectrum.installPffft(spectrum.loadPffft(host, new Uint8Array(readFileSync(module))))
preparePlayers()
const { tracks } = realSession({ band: 'judging', seed: 91, many: false, against: null })
const { sums } = findings.surveyClips(tracks)
const sones = [
  hearing.exactLoudness([{ hz: 1000, dbSpl: 60 }]),
  hearing.exactLoudness([{ hz: 100, dbSpl: 70 }]),
]
const shares = tracks.map((_, i) => hearing.trackMasking(sums, i).audibleShare)
const lead = tracks.findIndex((t) => t.isLead)
process.stdout.write(JSON.stringify({ sones, shares, lead }))
