import type { FuzzedReader } from './readers'

/** What one input may take. */
const MOST_MS = 1000
const MOST_BYTES = 300e6

/** Gives a reader an input; says what is wrong with how it took it, or null. */
export async function tryInput(
  { read, error }: FuzzedReader,
  bytes: Uint8Array<ArrayBuffer>,
): Promise<string | null> {
  const from = performance.now()
  const before = process.memoryUsage().arrayBuffers
  let wrong: string | null = null
  try {
    await read(bytes)
  } catch (thrown) {
    const isOurs = thrown instanceof error
    const { message } = thrown as Error
    if (!isOurs) wrong = `another error: ${String((thrown as Error)?.stack ?? thrown)}`
    else if (!/^[A-Z“].*[.!?]$/s.test(message)) wrong = `no sentence: ${message}`
  }
  const ms = performance.now() - from
  const bytesTaken = process.memoryUsage().arrayBuffers - before
  if (ms > MOST_MS) wrong ??= `took ${ms.toFixed(0)} ms`
  if (bytesTaken > MOST_BYTES) wrong ??= `took ${(bytesTaken / 1e6).toFixed(0)} MB`
  return wrong
}
