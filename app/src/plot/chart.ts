import { CategoryScale, Chart, LinearScale, LineElement, PointElement, Tooltip } from 'chart.js'
import { useAppSelector } from '../store/store'
import { SHEETS } from './inks'

Chart.register(CategoryScale, LinearScale, LineElement, PointElement, Tooltip)
Chart.defaults.font.family = '"Source Code Pro", monospace'
Chart.defaults.font.size = 12.5

/** Inks for ordinary charts on the sheet that lies on the table. */
export function useChartInks() {
  const sheet = SHEETS[useAppSelector((root) => root.interface.sheet)]
  const axis = {
    border: { color: sheet.lineStrong },
    grid: { color: sheet.line },
    ticks: { color: sheet.inkSoft, maxTicksLimit: 6 },
    title: { display: true, color: sheet.inkSoft },
  }
  return { sheet, axis }
}
