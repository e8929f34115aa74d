import type { Chain, Edit, Session } from '@sober-prism/core/session'
import { kindOf, MIX, type MoveEvidence } from '@sober-prism/core/treatments'
import { formatHz, signed } from '../format'

/** A band or a treatment that a finding or a plan proposed, as it stands in a chain now. */
export interface AppliedMove {
  readonly id: string
  readonly node: string
  readonly treatment: string
  readonly band: string | null
  readonly evidence: NonNullable<MoveEvidence>
  /** What it does, in a few words. */
  readonly does: string
}

/** Everything in a session that stands on evidence. */
export function appliedMoves(session: Session): AppliedMove[] {
  const chains: { node: string; chain: Chain }[] = [
    ...[...session.tracks, ...session.groups].map((n) => ({ node: n.id, chain: n.chain })),
    { node: MIX, chain: session.mix.chain },
  ]
  return chains.flatMap(({ node, chain }) =>
    chain.treatments.flatMap((treatment): AppliedMove[] => {
      const place = { node, treatment: treatment.id }
      const own = treatment.evidence
        ? [
            {
              ...place,
              id: treatment.id,
              band: null,
              evidence: treatment.evidence,
              does: kindOf(treatment.kind).describe(treatment.params),
            },
          ]
        : []
      if (treatment.kind !== 'equaliser') return own
      const bands = treatment.params.bands.flatMap(({ id, band, evidence }) => {
        const gain = band.type === 'low-cut' ? 'low cut' : `${signed(band.db)} dB`
        const does = `${gain} at ${formatHz(band.hz)}`
        return evidence ? [{ ...place, id, band: id, evidence, does }] : []
      })
      return [...own, ...bands]
    }),
  )
}

/** What takes a move out of its chain again. */
export function removalOf({ node, treatment, band }: AppliedMove): Edit {
  return band === null
    ? { kind: 'remove-treatment', node, treatment }
    : { kind: 'remove-band', node, treatment, band }
}
