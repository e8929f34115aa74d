import Box from '@mui/material/Box'
import type { Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { useSession } from '../../store/selectors'
import { pointForKey, STARTING_POINTS } from './starting-points'

interface BeginWithProps {
  readonly treatment: Treatment
  readonly onChoose: (point: (typeof STARTING_POINTS)[number]) => void
}

/** Settings to begin with, by what room is made for; the one for the key's role stands first. */
export function BeginWith({ treatment, onChoose }: BeginWithProps) {
  const own = pointForKey(useSession(), treatment)
  const points = own ? [own, ...STARTING_POINTS.filter((p) => p !== own)] : STARTING_POINTS
  return (
    <Box sx={{ width: 132 }}>
      <Choice
        label="Start from"
        value=""
        options={[
          ['', 'Room for…'],
          ...points.map((p) => [p.name, p === own ? `${p.name}, as the key is` : p.name] as const),
        ]}
        onChange={(name) => {
          const point = points.find((p) => p.name === name)
          if (point) onChoose(point)
        }}
      />
    </Box>
  )
}
