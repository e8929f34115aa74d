import { Line } from 'react-chartjs-2'
import { useChartInks } from '../plot/chart'

interface NullOverTimeProps {
  readonly overTime: readonly { readonly seconds: number; readonly db: number }[]
}

const FLOOR_DB = -140
const MOST_POINTS = 600

/** Level of what is left of a null over time, against the first signal. */
export default function NullOverTime({ overTime }: NullOverTimeProps) {
  const { sheet, axis } = useChartInks()
  const step = Math.max(1, Math.ceil(overTime.length / MOST_POINTS))
  const points = overTime.filter((_, i) => i % step === 0)
  const values = points.map((p) => Math.max(FLOOR_DB, p.db))
  const most = Math.max(FLOOR_DB, ...values)
  return (
    <Line
      role="img"
      aria-label={`What is left over time, at most ${most.toFixed(0)} dB`}
      data={{
        labels: points.map((p) => p.seconds.toFixed(1)),
        datasets: [{ data: values, borderColor: sheet.ink, borderWidth: 1.5, pointRadius: 0 }],
      }}
      options={{
        animation: false,
        maintainAspectRatio: false,
        plugins: { legend: { display: false } },
        scales: {
          x: {
            ...axis,
            title: { ...axis.title, text: 'seconds from the start of what was tested' },
          },
          y: { ...axis, title: { ...axis.title, text: 'left, dB' } },
        },
      }}
    />
  )
}
