/** A file or clip that cannot be worked on. The message is a sentence for the person who chose it. */
export class AudioError extends Error {
  override readonly name = 'AudioError'
}
