/**
 * A way from 0 to 1 that starts and ends at rest, 3t² - 2t³: gains that follow it have no kinks.
 * @param t 0 to 1.
 */
export function smoothStep(t: number): number {
  return t * t * (3 - 2 * t)
}
