import { DocumentError, parseSession, type Session } from '@sober-prism/core/session'
import { unzipSync } from 'fflate'
import { FileError } from './cli-error'
import { readBytes } from './files'

/** An opened `.prism` file: its document, and its audio by content hash. */
export interface SessionFile {
  readonly session: Session
  audioFile(hash: string): Uint8Array<ArrayBuffer> | null
}

/** Opens a `.prism` file (docs/formats.md). @throws FileError, DocumentError */
export async function readSessionFile(cwd: string, file: string): Promise<SessionFile> {
  const bytes = await readBytes(cwd, file)
  const entries = unzip(bytes, file)
  const document = entries['session.json']
  if (!document) throw new DocumentError('The file is not a session: session.json is missing.')
  const session = parseSession(new TextDecoder().decode(document))
  return {
    session,
    audioFile: (hash) => (entries[`audio/${hash}.wav`] as Uint8Array<ArrayBuffer>) ?? null,
  }
}

function unzip(bytes: Uint8Array, file: string): Record<string, Uint8Array> {
  try {
    return unzipSync(bytes)
  } catch {
    throw new FileError(file, 'is not a session file: it cannot be unpacked')
  }
}
