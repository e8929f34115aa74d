import type { Stretch } from '@sober-prism/core/mix'
import { type Session, sessionFrames } from '@sober-prism/core/session'
import type { Player } from '../sound/player'
import { referenceStretch } from './audition'
import type { Rendition } from './desk'

/** What loops while something is heard in place of the mix, and where the play head goes for it. */
export class HeardLoop {
  /** Where the mix was when a reference took its place. */
  #leftAt: number | null = null

  constructor(private readonly player: Pick<Player, 'positionFrames' | 'seek' | 'setLoop'>) {}

  /** Follows a new state of the session, or what is heard of it; null for the session itself. */
  follow(session: Session, rendition: Rendition | null): void {
    const stretch = rendition && ownLoop(session, rendition)
    const passage = session.loop ? session.passage : null
    const end = sessionFrames(session)
    const whole = session.loop && end > 0 ? { fromFrame: 0, toFrame: end } : null
    // A reference may go on beyond the end of the piece.
    this.player.setLoop(stretch ?? passage ?? whole, stretch ? null : end)
    if (rendition?.kind === 'reference') this.#goInto(stretch, session.passage)
    else if (this.#leftAt !== null) this.#goBack(passage)
  }

  /** A reference is heard at the moment of the passage that one was at, or else from its beginning. */
  #goInto(stretch: Stretch | null, passage: Stretch | null): void {
    const at = this.player.positionFrames
    this.#leftAt ??= at
    if (!stretch || isIn(at, stretch)) return
    const length = stretch.toFrame - stretch.fromFrame
    const into = passage && isIn(at, passage) ? (at - stretch.fromFrame) % length : 0
    this.player.seek(stretch.fromFrame + into)
  }

  /** The mix goes on from there where the passage loops; else from where one left it for a reference. */
  #goBack(passage: Stretch | null): void {
    const at = this.player.positionFrames
    if (!passage || !isIn(at, passage)) this.player.seek(this.#leftAt ?? at)
    this.#leftAt = null
  }
}

const isIn = (frame: number, { fromFrame, toFrame }: Stretch) =>
  frame >= fromFrame && frame < toFrame

/** What is looped while a rendition is heard, where that is not the passage: a region, or what of a reference. */
function ownLoop(session: Session, rendition: Rendition): Stretch | null {
  if (rendition.kind === 'region') return rendition.stretch
  return rendition.kind === 'reference' ? referenceStretch(session, rendition.reference) : null
}
