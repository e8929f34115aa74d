import { Line } from 'react-chartjs-2'
import { formatShare } from '../format'
import { useChartInks } from '../plot/chart'

interface PlanCurveProps {
  /** Share of the lead that is heard, before any move and after each. */
  readonly shares: readonly number[]
  readonly count: number
  readonly name: string
}

/** The picture spans at least so many points of the share. */
const LEAST_SPAN = 4

/** Share of the lead that is heard against the number of moves. */
export default function PlanCurve({ shares, count, name }: PlanCurveProps) {
  const { sheet, axis } = useChartInks()
  const percent = shares.map((v) => 100 * v)
  const middle = (Math.min(...percent) + Math.max(...percent)) / 2
  const inked = shares.map((_, i) => (i <= count ? sheet.accent : sheet.paper))
  return (
    <Line
      role="img"
      aria-label={`${name} heard by number of moves: ${shares.map((v) => formatShare(v)).join(', ')}`}
      data={{
        labels: shares.map((_, i) => String(i)),
        datasets: [
          {
            data: percent,
            borderColor: sheet.ink,
            borderWidth: 1.5,
            pointStyle: 'rect',
            pointRadius: 5,
            pointHoverRadius: 6,
            pointBorderColor: shares.map((_, i) => (i <= count ? sheet.accent : sheet.ink)),
            pointBackgroundColor: inked,
          },
        ],
      }}
      options={{
        animation: false,
        maintainAspectRatio: false,
        plugins: {
          legend: { display: false },
          tooltip: {
            displayColors: false,
            callbacks: {
              title: ([item]) => `After ${item.label} moves`,
              label: ({ parsed }) => `${name} heard ${(parsed.y ?? 0).toFixed(1)} %`,
            },
          },
        },
        scales: {
          x: { ...axis, title: { ...axis.title, text: 'moves' } },
          y: {
            ...axis,
            title: { ...axis.title, text: 'heard, %' },
            grace: '5%',
            // What nobody hears looks like nothing.
            suggestedMin: Math.max(0, middle - LEAST_SPAN / 2),
            suggestedMax: middle + LEAST_SPAN / 2,
          },
        },
      }}
    />
  )
}
