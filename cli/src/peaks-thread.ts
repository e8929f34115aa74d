import { parentPort, workerData } from 'node:worker_threads'
import { installPeakKernel } from '@sober-prism/core/loudness'
import type { WasmHost } from '@sober-prism/core/spectrum'
import { measurePeaks } from './peaks'

installPeakKernel(WebAssembly as unknown as WasmHost)
parentPort?.postMessage(await measurePeaks(workerData))
