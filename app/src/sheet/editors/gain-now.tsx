import { useEffect, useRef } from 'react'
import { useDesk } from '../../shell/desk-context'
import { usePlace } from '../../transport/use-place'

/** How often the figure is written anew, in ms: a figure that races cannot be read. */
const EVERY_MS = 100

/** How much a treatment takes at this moment, in words, while it sounds. */
export function GainNow({ node, treatment }: { node: string; treatment: string }) {
  const desk = useDesk()
  const place = usePlace()
  const text = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    desk.player.showGains(node, treatment)
    let last = 0
    const write = () => {
      const now = performance.now()
      if (!text.current || now - last < EVERY_MS) return
      last = now
      const [db] = desk.player.playing ? desk.player.gainsNow : []
      text.current.textContent =
        db === undefined ? 'Play to see reduction' : `Reducing ${Math.abs(db).toFixed(1)} dB`
    }
    write()
    const stop = place.current.watch(write)
    return () => {
      stop()
      desk.player.showGains(null, '')
    }
  }, [desk, node, treatment, place])
  return <span ref={text}>play to see what it takes</span>
}
