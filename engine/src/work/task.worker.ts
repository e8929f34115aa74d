import { installSectionKernel } from '@sober-prism/core/filters'
import { installPffft, loadPffft, type WasmHost } from '@sober-prism/core/spectrum'
import { runTask } from './run-task'
import type { FromWorker, ToWorker } from './tasks'

const PROGRESS_MS = 50

self.onmessage = (event: MessageEvent<ToWorker>) => {
  const message = event.data
  if (message.kind === 'start') {
    installPffft(loadPffft(WebAssembly as unknown as WasmHost, new Uint8Array(message.pffft)))
    installSectionKernel(WebAssembly as unknown as WasmHost)
    return
  }
  let last = 0
  const onProgress = (share: number) => {
    const now = performance.now()
    if (now - last < PROGRESS_MS) return
    last = now
    send({ kind: 'progress', share })
  }
  try {
    const output = runTask(message.name, message.input as never, onProgress)
    const transfer = 'bytes' in output ? [output.bytes.buffer] : []
    send({ kind: 'done', output }, transfer)
  } catch (error) {
    send({ kind: 'failed', message: error instanceof Error ? error.message : String(error) })
  }
}

function send(message: FromWorker, transfer: Transferable[] = []): void {
  self.postMessage(message, { transfer })
}
