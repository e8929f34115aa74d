import { MIX } from '@sober-prism/core/treatments'
import { useCallback, useMemo } from 'react'
import { Plot, type Surface } from '../plot/plot'
import { useDesk } from '../shell/desk-context'
import { liveLine, openSession } from '../store/selectors'
import { useAppSelector } from '../store/store'
import styles from './tracks.module.css'

const FLOOR_DB = -60

/** The peak level of what sounds in a node now. */
export function Meter({ node }: { node: string }) {
  const desk = useDesk()
  const line = useAppSelector((root) => liveLine(openSession(root), node))
  const signals = useMemo(() => [desk.live], [desk])
  const draw = useCallback(
    ({ context, width, height, sheet }: Surface) => {
      context.fillStyle = sheet.line
      context.fillRect(0, 0, width, height)
      const peak = desk.player.playing ? (desk.live.value?.peaks[line] ?? 0) : 0
      const share = Math.max(0, 1 - (20 * Math.log10(Math.max(1e-6, peak))) / FLOOR_DB)
      context.fillStyle = peak > 1 ? sheet.warning : sheet.accent
      context.fillRect(0, height * (1 - Math.min(1, share)), width, height)
    },
    [desk, line],
  )
  return <Plot className={styles.meter} draw={draw} signals={signals} data-mix={node === MIX} />
}
