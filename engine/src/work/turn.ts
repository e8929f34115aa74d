let channel: MessageChannel | null = null
let resume: () => void = () => {}

/**
 * Lets whatever waits in a worker's queue have its turn, reads from storage above all: they take several steps, which
 * long computing without a pause would hold up. Elsewhere it is over at once.
 */
export function turn(): Promise<void> | undefined {
  if (typeof importScripts === 'undefined') return undefined
  if (!channel) {
    channel = new MessageChannel()
    channel.port1.onmessage = () => resume()
  }
  const { port2 } = channel
  return new Promise((resolve) => {
    resume = resolve
    port2.postMessage(0)
  })
}

/** Only workers have it. */
declare const importScripts: unknown
