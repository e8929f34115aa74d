import { installKernels } from '@sober-prism/core/host'
import { ProfileError } from '@sober-prism/core/match'
import type { Progress } from '../questions/question'
import { answer } from '../questions/registry'
import { lifeShown, showLife } from './life'
import type { FromWorker, ToWorker } from './messages'

const PROGRESS_MS = 50

self.onmessage = async (event: MessageEvent<ToWorker>) => {
  const message = event.data
  if (showLife(message)) return
  if (message.kind === 'start') {
    installKernels(message.pffft)
    return
  }
  if (message.kind !== 'run') return
  await lifeShown()
  Atomics.store(message.begun, 0, 1)
  let last = 0
  const onProgress: Progress = (share, part) => {
    const now = performance.now()
    if (!part && now - last < PROGRESS_MS) return
    last = now
    send({ kind: 'progress', share, part })
  }
  try {
    const output = await answer(message.name, message.input as never, onProgress)
    send({ kind: 'done', output })
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    send({ kind: 'failed', message, isPlain: error instanceof ProfileError })
  }
}

function send(message: FromWorker): void {
  self.postMessage(message)
}
