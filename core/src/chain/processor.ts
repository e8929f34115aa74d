/**
 * A stage that treats audio in place, block by block. `process` allocates nothing and never throws;
 * changes by `set` glide.
 */
export interface Processor<Params> {
  /** Must be called before anything else; forgets all state. */
  prepare(sampleRateHz: number, channels: number): void
  set(params: Params): void
  /** Treats the first `frames` samples of each channel in place. */
  process(channels: readonly Float32Array[], frames: number): void
  /** Delay of the output behind the input, in frames. */
  readonly latency: number
  /** Forgets past sound, keeps the parameters, which then stand at once. */
  reset(): void
}
