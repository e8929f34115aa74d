import { chainOf } from '@sober-prism/core/session'
import type { ChainBand, Treatment } from '@sober-prism/core/treatments'
import { openSession, shownTreatment } from '../store/selectors'
import type { RootState } from '../store/store'

const NO_BANDS: readonly ChainBand[] = []
const NO_TREATMENTS: readonly Treatment[] = []

/** What stands on a node's sheet. */
export function onSheet(root: RootState, node: string) {
  const treatments = chainOf(openSession(root), node)?.treatments ?? NO_TREATMENTS
  return { treatments, treatment: shownTreatment(treatments, root.interface) }
}

export function equaliserOf(treatment: Treatment | null) {
  return treatment?.kind === 'equaliser' ? treatment : null
}

export function bandsIn(treatment: Treatment | null): readonly ChainBand[] {
  return equaliserOf(treatment)?.params.bands ?? NO_BANDS
}
