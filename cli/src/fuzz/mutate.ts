import type { seededRandom } from '@sober-prism/core/audio'

type Random = ReturnType<typeof seededRandom>

/** Bytes and words at which readers go wrong. */
const BYTES = [0, 1, 0x7f, 0x80, 0xff]
const WORDS = [0, 1, 0x7fffffff, 0x80000000, 0xffffffff, 0xfffffffe, 0x10000, 44]
const NUMBERS = [0, -1, 1e300, -1e300, 1e-300, 0.5, 2 ** 53, NaN, Infinity, -0, 65536, 48000]

function pick<T>(random: Random, list: readonly T[]): T {
  return list[Math.floor(random() * list.length)]
}

/** A file that is like one of the seeds, and broken somewhere. */
export function mutateBytes(seeds: readonly Uint8Array[], random: Random): Uint8Array<ArrayBuffer> {
  let bytes = Uint8Array.from(pick(random, seeds))
  const changes = 1 + Math.floor(random() * 6)
  for (let n = 0; n < changes && bytes.length > 0; n++) bytes = mutateOnce(bytes, seeds, random)
  return bytes
}

function mutateOnce(
  bytes: Uint8Array<ArrayBuffer>,
  seeds: readonly Uint8Array[],
  random: Random,
): Uint8Array<ArrayBuffer> {
  // Headers are where most of the decisions are.
  const reach = random() < 0.7 ? Math.min(bytes.length, 120) : bytes.length
  const at = Math.floor(random() * reach)
  switch (Math.floor(random() * 7)) {
    case 0:
      bytes[at] ^= 1 << Math.floor(random() * 8)
      return bytes
    case 1:
      bytes[at] = pick(random, BYTES)
      return bytes
    case 2: {
      const view = new DataView(bytes.buffer)
      if (at + 4 <= bytes.length) view.setUint32(at, pick(random, WORDS), random() < 0.5)
      return bytes
    }
    case 3:
      return bytes.slice(0, at)
    case 4: {
      const end = Math.min(bytes.length, at + Math.floor(random() * 64))
      return joined(bytes.subarray(0, end), bytes.subarray(at))
    }
    case 5: {
      const other = pick(random, seeds)
      return joined(bytes.subarray(0, at), other.subarray(Math.floor(random() * other.length)))
    }
    default:
      return joined(bytes.subarray(0, at), bytes.subarray(Math.min(bytes.length, at + 8)))
  }
}

function joined(a: Uint8Array, b: Uint8Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(a.length + b.length)
  out.set(a)
  out.set(b, a.length)
  return out
}

/** A document that is like one of the seeds, with values that do not belong there; sometimes no JSON at all. */
export function mutateJson(seeds: readonly string[], random: Random): Uint8Array<ArrayBuffer> {
  const encode = (text: string) => new TextEncoder().encode(text)
  const text = pick(random, seeds)
  if (random() < 0.2) return mutateBytes([encode(text)], random)
  let document: unknown = JSON.parse(text)
  const changes = 1 + Math.floor(random() * 4)
  for (let n = 0; n < changes; n++) document = mutateValue(document, random)
  return encode(JSON.stringify(document, (_, v) => (Object.is(v, -0) ? 0 : v)) ?? '')
}

function mutateValue(value: unknown, random: Random): unknown {
  if (typeof value !== 'object' || value === null || random() < 0.05) return oddValue(value, random)
  if (Array.isArray(value)) {
    if (value.length === 0 || random() < 0.1) return [...value, oddValue(value[0], random)]
    const at = Math.floor(random() * value.length)
    if (random() < 0.1) return value.toSpliced(at, 1)
    if (random() < 0.1) return [...value, value[at]]
    return value.map((v, i) => (i === at ? mutateValue(v, random) : v))
  }
  const entries = Object.entries(value)
  if (entries.length === 0 || random() < 0.1) return { ...value, odd: oddValue(null, random) }
  // Most of a document lies deeper than its first level.
  const deep = entries.filter(([, v]) => typeof v === 'object' && v !== null)
  const [key, inner] = pick(random, deep.length > 0 && random() < 0.8 ? deep : entries)
  if (random() < 0.1) return Object.fromEntries(entries.filter(([k]) => k !== key))
  return { ...value, [key]: mutateValue(inner, random) }
}

function oddValue(value: unknown, random: Random): unknown {
  switch (Math.floor(random() * 8)) {
    case 0:
      return pick(random, NUMBERS)
    case 1:
      return null
    case 2:
      return pick(random, [
        '',
        '__proto__',
        'constructor',
        'mix',
        '../x',
        '\u0000',
        'x'.repeat(500),
      ])
    case 3:
      return [value, value]
    case 4:
      return { [pick(random, ['__proto__', 'id', 'length', 'toString'])]: value }
    case 5:
      return random() < 0.5
    case 6: {
      let deep: unknown = value
      for (let i = 0; i < 200; i++) deep = [deep]
      return deep
    }
    default:
      return typeof value === 'number' ? value * pick(random, [-1, 0, 10, 1e9]) : 7
  }
}
