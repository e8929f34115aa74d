import type { TestProject } from 'vitest/node'
import { startServer } from './serve'

declare module 'vitest' {
  interface ProvidedContext {
    address: string
  }
}

/** One server for all browser tests. */
export default async function setup(project: TestProject): Promise<() => void> {
  const { address, stop } = await startServer()
  project.provide('address', address)
  return stop
}
