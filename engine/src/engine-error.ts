/** Something the browser or the machine refused. The message is a sentence for the person at the desk. */
export class EngineError extends Error {
  override readonly name = 'EngineError'
}

/** The sentence of any error, for showing. */
export function errorSentence(error: unknown): string {
  if (
    error instanceof Error &&
    ['EngineError', 'AudioError', 'DocumentError'].includes(error.name)
  ) {
    return error.message
  }
  return `Something went wrong: ${error instanceof Error ? error.message : String(error)}`
}

/** True when work was given up on purpose. */
export function isCancel(error: unknown): boolean {
  return error instanceof Error && error.name === 'AbortError'
}
