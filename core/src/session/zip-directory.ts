import type { ByteRange } from '../audio'
import { DocumentError } from './document-error'

/** A file in a zip archive, without its contents. */
export interface ZipEntry {
  readonly name: string
  /** 0 stored as it is, 8 deflated. */
  readonly method: number
  /** Bytes it takes in the archive, and what its directory says of it unpacked. */
  readonly packedBytes: number
  readonly bytes: number
  /** Where its local header begins. */
  readonly at: number
}

const END_BYTES = 22
const LONGEST_COMMENT = 65535
const END_TAG = 0x06054b50
const ENTRY_TAG = 0x02014b50
const LOCAL_TAG = 0x04034b50
const LOCAL_BYTES = 30
/** Archives whose directory is larger are not sessions. */
const LARGEST_DIRECTORY = 16e6

/**
 * Reads the directory of a zip archive step by step: asks for bytes and is given them. What files hold is read
 * by whoever wants it, so that an archive need not be in memory.
 * @param length of the archive, in bytes. @throws DocumentError
 */
export function* zipDirectory(length: number): Generator<ByteRange, ZipEntry[], Uint8Array> {
  const size = Math.min(length, END_BYTES + LONGEST_COMMENT)
  const tail = view(yield { at: length - size, size })
  let end = tail.byteLength - END_BYTES
  while (end >= 0 && tail.getUint32(end, true) !== END_TAG) end--
  if (end < 0) throw broken()
  const count = tail.getUint16(end + 10, true)
  const directoryBytes = tail.getUint32(end + 12, true)
  const at = tail.getUint32(end + 16, true)
  if (directoryBytes > LARGEST_DIRECTORY || at + directoryBytes > length) throw broken()
  const bytes = yield { at, size: directoryBytes }
  return readEntries(bytes, count, length)
}

function readEntries(bytes: Uint8Array, count: number, length: number): ZipEntry[] {
  const directory = view(bytes)
  const entries: ZipEntry[] = []
  let at = 0
  for (let n = 0; n < count; n++) {
    if (at + 46 > bytes.length || directory.getUint32(at, true) !== ENTRY_TAG) throw broken()
    const nameBytes = directory.getUint16(at + 28, true)
    const more = directory.getUint16(at + 30, true) + directory.getUint16(at + 32, true)
    const entry = {
      name: text(bytes.subarray(at + 46, at + 46 + nameBytes)),
      method: directory.getUint16(at + 10, true),
      packedBytes: directory.getUint32(at + 20, true),
      bytes: directory.getUint32(at + 24, true),
      at: directory.getUint32(at + 42, true),
    }
    if (entry.at + entry.packedBytes > length) throw broken()
    entries.push(entry)
    at += 46 + nameBytes + more
  }
  return entries
}

/** Deflate makes a byte at most so many times longer (RFC 1951: a match of 258 bytes in two bits). */
const MOST_DEFLATED = 1032

/** Why an entry is not to be unpacked to memory, as a sentence; null when nothing is against it. */
export function unpackProblem(entry: ZipEntry, most: number): string | null {
  if (entry.method !== 0 && entry.method !== 8) {
    return 'The file cannot be unpacked: it is packed in a way that is not read here.'
  }
  if (Math.max(entry.bytes, entry.packedBytes) > most) {
    return `The file cannot be unpacked: ${entry.name.slice(0, 80)} in it is too large.`
  }
  // A directory that promises more than can come out would only reserve memory.
  if (entry.method === 8 && entry.bytes > entry.packedBytes * MOST_DEFLATED) return broken().message
  return null
}

/** Where the contents of an entry begin; asks for its local header. @throws DocumentError */
export function* zipContents(entry: ZipEntry): Generator<ByteRange, ByteRange, Uint8Array> {
  const bytes = yield { at: entry.at, size: LOCAL_BYTES }
  const header = view(bytes)
  if (bytes.length < LOCAL_BYTES || header.getUint32(0, true) !== LOCAL_TAG) throw broken()
  const skip = LOCAL_BYTES + header.getUint16(26, true) + header.getUint16(28, true)
  return { at: entry.at + skip, size: entry.packedBytes }
}

function view(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
}

function broken(): DocumentError {
  return new DocumentError('The file cannot be unpacked: it is damaged or not a zip.')
}

/** UTF-8 bytes as text; anything else byte by byte. */
function text(bytes: Uint8Array): string {
  try {
    const hex = Array.from(bytes, (b) => `%${b.toString(16).padStart(2, '0')}`)
    return decodeURIComponent(hex.join(''))
  } catch {
    return String.fromCharCode(...bytes)
  }
}
