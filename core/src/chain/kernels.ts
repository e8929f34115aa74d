import { type PhasePlan, planPhase } from '../filters'
import type { Chain } from '../session'
import type { MixPlan } from './mix-plan'
import { chainBands } from './track-chain'

/** The FIR kernels of a chain; `null` where it has none. Takes milliseconds: not for the audio thread. */
export function chainKernels(chain: Chain, rateHz: number): PhasePlan | null {
  if (chain.phase === 'minimum') return null
  const plan = planPhase(chainBands(chain), chain.phase, rateHz)
  return plan.firs.length > 0 ? plan : null
}

/** Fills in the kernels that a plan's chains need. `owner` is a track's id, or `mix`. */
export function withKernels(
  plan: MixPlan,
  design: (chain: Chain, owner: string) => PhasePlan | null,
): MixPlan {
  return {
    ...plan,
    kernels: design(plan.chain, 'mix'),
    tracks: plan.tracks.map((track) => ({ ...track, kernels: design(track.chain, track.id) })),
  }
}
