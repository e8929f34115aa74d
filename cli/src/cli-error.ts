/** A call that does not fit the contract: exit status 2, with the usage line. */
export class UsageError extends Error {
  override readonly name = 'UsageError'
  constructor(
    message: string,
    readonly usage: string,
  ) {
    super(message)
  }
}

/** An input or output that cannot be worked on: exit status 1. */
export class FileError extends Error {
  override readonly name = 'FileError'
  constructor(
    readonly file: string,
    reason: string,
  ) {
    super(reason)
  }
}
