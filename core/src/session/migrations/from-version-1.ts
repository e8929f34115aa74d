import type { Loose } from './index'
import { isObject, mapChains, mapObjects } from './loose'

/** Version 1 had one lead, keys of dismissed findings alone, and evidence of masking moves only. */
export function fromVersion1(document: Loose): Loose {
  const { leadId, dismissed, ...rest } = document
  const upgraded = {
    ...rest,
    version: 2,
    leadIds: typeof leadId === 'string' ? [leadId] : [],
    // Their findings had other keys: they could not be recognised.
    dismissed: dismissed !== undefined && !Array.isArray(dismissed) ? dismissed : [],
  }
  return mapChains(upgraded, (chain) => {
    const out: Loose = { ...chain }
    for (const stage of ['clean', 'fit', 'shape']) {
      const list = out[stage]
      if (isObject(list)) out[stage] = { ...list, moves: mapObjects(list.moves, moveOf) }
    }
    return out
  })
}

function moveOf(move: Loose): Loose {
  const { evidence } = move
  if (!isObject(evidence)) return move
  return {
    ...move,
    evidence: {
      findingKey: evidence.findingKey,
      measure: { of: 'heard', track: evidence.lead },
      before: evidence.heardBefore,
      predicted: evidence.heardPredicted,
    },
  }
}
