import type { z } from 'zod'
import type { Biquad } from '../filters'

/** What runs a treatment's sound, block by block, in place. Allocates nothing in `process` and never throws there. */
export interface TreatmentProcessor<Params, Design> {
  /** Delay of the output behind the input, in frames; the graph makes up for it. */
  readonly latency: number
  /** True when nothing is done to the sound at all, so that it may be passed by. */
  readonly idle: boolean
  /** True when settings can be taken over while sounding: latency and structure stay as they are. */
  fits(params: Params, design: Design): boolean
  /** Takes settings over: before the first block at once, afterwards gliding. */
  set(params: Params, design: Design): void
  /**
   * Treats the first `frames` samples of one or two channels.
   * @param key what the treatment listens to, in time with the channels; null where there is none.
   */
  process(
    channels: readonly Float32Array[],
    frames: number,
    key: readonly Float32Array[] | null,
  ): void
  /**
   * For kinds whose gains move: writes how far each band is drawn at this moment, in dB, in the order of the values or
   * from low to high. @returns how many.
   */
  readGains?(out: Float32Array): number
  /** Forgets past sound; settings stand where they were going. */
  reset(): void
  /** Gives memory back; the processor is not to be used any more. */
  dispose(): void
}

/** What a treatment does to one part of a stereo sound, as pictures and predictions read it. */
export interface TreatmentResponse {
  readonly sections: readonly Biquad[]
  readonly kernels: readonly ArrayLike<number>[]
  /** Delay that the graph makes up for, in frames. */
  readonly latency: number
  /** 1, or -1 where the polarity is turned over. */
  readonly sign: 1 | -1
  /** Delay beyond the latency, in frames; negative for earlier. */
  readonly delayFrames: number
}

/** Which part of a stereo sound is read. */
export type StereoPart = 'mid' | 'side'

/**
 * What one kind of treatment is on paper: `Params` are its values in the document, `FileParams` those in a chain file.
 * Its sound is made by its {@link TreatmentWorkings}, which not everyone needs who reads documents.
 */
export interface TreatmentForm<Kind extends string, Params, FileParams = Params> {
  readonly kind: Kind
  /** The trade's name, for people. */
  readonly name: string
  readonly params: z.ZodType<Params>
  readonly takesKey: boolean
  defaults(): Params
  readonly file: {
    readonly params: z.ZodType<FileParams>
    read(file: FileParams): Params
    write(params: Params): FileParams
  }
  /** The values as they are rendered, where some are for listening only; the same object where none of them stands. */
  rendered?(params: Params): Params
  /** Whether the values change the sound at all. */
  acts(params: Params): boolean
  /** What it does, in one short sentence without a full stop. */
  describe(params: Params): string
}

/** The design of kinds that need nothing ready-made. */
export const NO_DESIGN = {}
export type NoDesign = typeof NO_DESIGN

/**
 * How the sound of one kind of treatment is made. `Design` is what is computed from the values ahead of the sound: a
 * plain value that may travel between threads, and never null, which means that it is not there yet.
 */
export interface TreatmentWorkings<Params, Design> {
  /** Computes what the processor needs. May take tens of milliseconds where {@link isHeavy} says so. */
  design(params: Params, sampleRateHz: number): Design
  /** Whether designing takes longer than a page may be held up for. */
  isHeavy(params: Params): boolean
  /** Delay in frames by which a processor with these settings is late. */
  latency(params: Params, design: Design, channels: number): number
  make(sampleRateHz: number, channels: number): TreatmentProcessor<Params, Design>
  /** What it does to a steady sound; null where that depends on the moment. */
  readonly response:
    | ((
        params: Params,
        design: Design,
        sampleRateHz: number,
        part: StereoPart,
      ) => TreatmentResponse)
    | null
}

/** Both, as tests bring kinds of their own. */
export interface TreatmentKind<Kind extends string, Params, Design, FileParams = Params>
  extends TreatmentForm<Kind, Params, FileParams>,
    TreatmentWorkings<Params, Design> {}

/** Kinds whose types are not known: what mixer, files and interface work with. */
export type AnyForm = TreatmentForm<string, unknown, unknown>
export type AnyWorkings = TreatmentWorkings<unknown, unknown>
export type AnyKind = TreatmentKind<string, unknown, unknown, unknown>
