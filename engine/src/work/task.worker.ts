import { installArrayKernel, installHalveKernel } from '@sober-prism/core/audio'
import { installSectionKernel } from '@sober-prism/core/filters'
import { installSpreadKernel } from '@sober-prism/core/hearing'
import { installEnergyKernel, installPeakKernel } from '@sober-prism/core/loudness'
import { ProfileError } from '@sober-prism/core/match'
import { installAddKernel } from '@sober-prism/core/mix'
import { installPffft, loadPffft, type WasmHost } from '@sober-prism/core/spectrum'
import { lifeShown, showLife } from './life'
import { runTask } from './run-task'
import type { FromWorker, Progress, ToWorker } from './tasks'

const PROGRESS_MS = 50

self.onmessage = async (event: MessageEvent<ToWorker>) => {
  const message = event.data
  if (showLife(message)) return
  if (message.kind === 'start') {
    installPffft(loadPffft(WebAssembly as unknown as WasmHost, new Uint8Array(message.pffft)))
    installSectionKernel(WebAssembly as unknown as WasmHost)
    installPeakKernel(WebAssembly as unknown as WasmHost)
    installEnergyKernel(WebAssembly as unknown as WasmHost)
    installHalveKernel(WebAssembly as unknown as WasmHost)
    installArrayKernel(WebAssembly as unknown as WasmHost)
    installSpreadKernel(WebAssembly as unknown as WasmHost)
    installAddKernel(WebAssembly as unknown as WasmHost)
    return
  }
  if (message.kind !== 'run') return
  await lifeShown()
  send({ kind: 'begun' })
  let last = 0
  const onProgress: Progress = (share, part) => {
    const now = performance.now()
    if (!part && now - last < PROGRESS_MS) return
    last = now
    send({ kind: 'progress', share, part })
  }
  try {
    const output = await runTask(message.name, message.input as never, onProgress)
    send({ kind: 'done', output })
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    send({ kind: 'failed', message, isPlain: error instanceof ProfileError })
  }
}

function send(message: FromWorker): void {
  self.postMessage(message)
}
