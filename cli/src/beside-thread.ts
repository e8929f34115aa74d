import { parentPort, workerData } from 'node:worker_threads'
import { installPeakKernel } from '@sober-prism/core/loudness'
import type { WasmHost } from '@sober-prism/core/spectrum'
import { type FromThread, startJob, type ThreadCall, type ToThread } from './beside-job'

installPeakKernel(WebAssembly as unknown as WasmHost)
const call: ThreadCall = workerData
const job = startJob(call)
const post = (message: FromThread) => parentPort?.postMessage(message)

parentPort?.on('message', (message: ToThread) => {
  if (message === 'end') {
    post({ result: job.finish() })
    parentPort?.close()
    return
  }
  job.add(call.slots[message.slot].map((channel) => channel.subarray(0, message.frames)))
  post({ free: message.slot })
})
