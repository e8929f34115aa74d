import url from '../../node_modules/@echogarden/pffft-wasm/dist/simd/pffft.wasm?url'
import { EngineError } from './engine-error'

const AGAIN_MS = 1000

let bytes: Promise<ArrayBuffer> | undefined

/**
 * The Fourier transform module, fetched once from our own server; workers and the worklet compile it.
 * @throws EngineError when it cannot be had; the next call tries again.
 */
export function pffftBytes(): Promise<ArrayBuffer> {
  bytes ??= twice(load).catch(() => {
    bytes = undefined
    throw new EngineError(
      'Part of this app could not be loaded, so nothing can be measured or played. Check that its server is running, then retry.',
    )
  })
  return bytes
}

async function load(): Promise<ArrayBuffer> {
  const response = await fetch(url)
  if (!response.ok) throw new Error(response.statusText)
  return response.arrayBuffer()
}

async function twice<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch {
    await new Promise((resolve) => setTimeout(resolve, AGAIN_MS))
    return work()
  }
}
