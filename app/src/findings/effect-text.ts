import type { AudibleEffect } from '@sober-prism/core/findings'

/** What a move changes of what is heard, in words. */
export function effectText({ share }: AudibleEffect): string {
  const percent = 100 * share
  if (percent < 0.5) return 'almost no change'
  return `${percent < 10 ? percent.toFixed(1) : percent.toFixed(0)} % of what is heard changes`
}
