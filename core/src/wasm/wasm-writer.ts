/** The part of a host's `WebAssembly` that is used here; the global object fits. */
export interface WasmHost {
  validate(bytes: Uint8Array<ArrayBuffer>): boolean
  readonly Module: new (bytes: Uint8Array<ArrayBuffer>) => object
  readonly Instance: new (
    module: object,
    imports: Record<string, Record<string, unknown>>,
  ) => { readonly exports: object }
}

/** The few instructions of WebAssembly that our kernels are made of, by their opcodes (core specification 2.0). */
export const OP = {
  loop: [0x03, 0x40],
  if: [0x04, 0x40],
  end: [0x0b],
  brIf: [0x0d],
  localGet: [0x20],
  localSet: [0x21],
  i32Const: [0x41],
  i32Load: [0x28],
  i32LtU: [0x49],
  i32Add: [0x6a],
  v128Load: [0xfd, 0x00],
  /** Four 16-bit numbers as 32-bit ones. */
  v128Load16x4: [0xfd, 0x03],
  v128Load32Splat: [0xfd, 0x09],
  v128Load64Splat: [0xfd, 0x0a],
  v128Store: [0xfd, 0x0b],
  /** Followed by the sixteen bytes that are taken of two vectors. */
  i8x16Shuffle: [0xfd, 0x0d],
  v128Load32Lane: [0xfd, 0x56],
  v128Store32Lane: [0xfd, 0x5a],
  v128Load32Zero: [0xfd, 0x5c],
  f32x4DemoteF64x2: [0xfd, 0x5e],
  f64x2PromoteF32x4: [0xfd, 0x5f],
  f64x2Add: [0xfd, 0xf0, 0x01],
  f64x2Mul: [0xfd, 0xf2, 0x01],
  /** a·b + c, rounded once where the machine can (relaxed SIMD). */
  f64x2RelaxedMadd: [0xfd, 0x87, 0x02],
  f32x4Abs: [0xfd, 0xe0, 0x01],
  f32x4Add: [0xfd, 0xe4, 0x01],
  f32x4Sub: [0xfd, 0xe5, 0x01],
  f32x4Mul: [0xfd, 0xe6, 0x01],
  f32x4ConvertI32x4: [0xfd, 0xfa, 0x01],
  f32x4RelaxedMadd: [0xfd, 0x85, 0x02],
  f32x4Max: [0xfd, 0xe9, 0x01],
} as const

const I32 = 0x7f
const V128 = 0x7b
const FUNCTION = 0x60

/** An unsigned number as LEB128. */
export function leb(value: number): number[] {
  const bytes: number[] = []
  let rest = value
  do {
    const low = rest & 0x7f
    rest >>>= 7
    bytes.push(rest === 0 ? low : low | 0x80)
  } while (rest !== 0)
  return bytes
}

/** A whole number from 0 on as a signed LEB128, as constants are written. */
function signedLeb(value: number): number[] {
  const bytes = leb(value)
  const last = bytes.length - 1
  if (bytes[last] < 0x40) return bytes
  // Its highest bit would be read as a sign.
  return [...bytes.slice(0, last), bytes[last] | 0x80, 0]
}

/** Takes a local onto the stack. */
export function get(local: number): number[] {
  return [...OP.localGet, ...leb(local)]
}

/** Puts what is on the stack into a local. */
export function set(local: number): number[] {
  return [...OP.localSet, ...leb(local)]
}

/** Moves a local on by so many bytes. */
export function advance(local: number, bytes: number): number[] {
  return [...get(local), ...OP.i32Const, ...signedLeb(bytes), ...OP.i32Add, ...set(local)]
}

/** Bytes of the single-precision lanes that a shuffle takes of two vectors. */
export function lanes(list: readonly number[]): number[] {
  return list.flatMap((lane) => [0, 1, 2, 3].map((b) => 4 * lane + b))
}

/** The end of a loop over places in memory: back to its beginning while one local is below another, then out of it. */
export function untilReached(local: number, end: number): number[] {
  return [...get(local), ...get(end), ...OP.i32LtU, ...OP.brIf, 0, ...OP.end]
}

/** A function of three i32 parameters without a result. */
export interface WasmFunction {
  readonly name: string
  /** Number of v128 locals, which follow the parameters. */
  readonly vectors: number
  /** Number of i32 locals, which follow those. */
  readonly numbers?: number
  readonly code: readonly number[]
}

/**
 * A module that exports the functions by their names.
 * @param memory pages of its own, which it exports as `memory`; or that of another, imported as `memory` of `host`.
 */
export function writeModule(
  functions: readonly WasmFunction[],
  memory: number | 'imported',
): Uint8Array<ArrayBuffer> {
  const text = (s: string) => [...leb(s.length), ...[...s].map((c) => c.charCodeAt(0))]
  const section = (id: number, body: readonly number[]) => [id, ...leb(body.length), ...body]
  const list = (items: readonly (readonly number[])[]) => [...leb(items.length), ...items.flat()]
  const bodies = functions.map(({ vectors, numbers = 0, code }) => {
    const locals = [
      [...leb(vectors), V128],
      [...leb(numbers), I32],
    ]
    const body = [...list(locals), ...code, ...OP.end]
    return [...leb(body.length), ...body]
  })
  const isOwn = memory !== 'imported'
  const theirs = [...text('host'), ...text('memory'), 0x02, 0x00, ...leb(1)]
  return Uint8Array.from([
    ...[0x00, 0x61, 0x73, 0x6d, 0x01, 0x00, 0x00, 0x00],
    ...section(1, list([[FUNCTION, ...list([[I32], [I32], [I32]]), 0]])),
    ...(isOwn ? [] : section(2, list([theirs]))),
    ...section(3, list(functions.map(() => [0]))),
    ...(isOwn ? section(5, list([[0x00, ...leb(memory)]])) : []),
    ...section(
      7,
      list([
        ...(isOwn ? [[...text('memory'), 0x02, 0]] : []),
        ...functions.map(({ name }, i) => [...text(name), 0x00, ...leb(i)]),
      ]),
    ),
    ...section(10, list(bodies)),
  ])
}
