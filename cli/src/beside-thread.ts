import { parentPort, workerData } from 'node:worker_threads'
import { installKernels } from '@sober-prism/core/host'
import { type FromThread, startJob, type ThreadCall, type ToThread } from './beside-job'

installKernels(null)
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
