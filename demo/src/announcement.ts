import { addRoom } from './room'
import { band, partRandom, shape, toPeak } from './sound'
import { announcementScript, speak } from './speech'

/** The same words through two microphones: one good, one dull and roomy. */
export function announcementMakers(
  seed: number,
): readonly (() => { name: string; channels: readonly Float32Array[] })[] {
  const words = () =>
    speak(announcementScript(partRandom(seed, 'script')), partRandom(seed, 'speech'))
  return [
    () => {
      const near = shape(words(), band('low-cut', 60))
      addRoom(near, 0.03, 0.4)
      toPeak([near], -3)
      return { name: 'Wheelhouse', channels: [near] }
    },
    () => {
      const far = shape(
        words(),
        band('low-cut', 140),
        band('high-shelf', 2800, { db: -9 }),
        band('bell', 380, { db: 5, q: 1.2 }),
      )
      addRoom(far, 0.6, 1.3)
      toPeak([far], -7)
      return { name: 'Foredeck', channels: [far] }
    },
  ]
}
