/** Longest name of a file without its ending, in bytes of UTF-8: file systems take 255, and a number may follow. */
const MOST_BYTES = 200
/** Names that some systems keep for devices. */
const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)$/i

/** A name that every file system takes: letters, figures, spaces, hyphens and underscores. */
export function fileName(name: string): string {
  const clean = name.normalize('NFC').replace(/[^\p{L}\p{N} _-]/gu, '_')
  const kept = cut(clean, MOST_BYTES).trim()
  if (kept === '') return 'untitled'
  return DEVICES.test(kept) ? `${kept}_` : kept
}

/**
 * Names for files that go into one folder, in the order of what is wanted: cleaned, and no two alike, ignoring case, which
 * some file systems do; the second of a name is numbered 2.
 * @param ending with its point.
 */
export function fileNames(wanted: readonly string[], ending: string): string[] {
  const taken = new Set<string>()
  return wanted.map((name) => {
    const clean = fileName(name)
    for (let n = 1; ; n++) {
      const made = n === 1 ? clean : `${clean} ${n}`
      const key = made.toLowerCase()
      if (taken.has(key)) continue
      taken.add(key)
      return `${made}${ending}`
    }
  })
}

function cut(text: string, bytes: number): string {
  let length = 0
  let kept = ''
  for (const character of text) {
    const code = character.codePointAt(0) ?? 0
    length += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4
    if (length > bytes) break
    kept += character
  }
  return kept
}
