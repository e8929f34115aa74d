import ShowIcon from '@mui/icons-material/ExpandLess'
import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import { chainOf } from '@sober-prism/core/session'
import { TREATMENT_KINDS } from '@sober-prism/core/treatments'
import { Badge } from '../controls/badge'
import { chosenNode, nodeName, nodeOf, openSession } from '../store/selectors'
import { useAppSelector } from '../store/store'

/** What stands of the chosen node's sheet while it is put away: whose it is, and its treatments. A press shows it. */
export function SheetLine({ onShow }: { onShow: () => void }) {
  const node = useAppSelector(chosenNode)
  const name = useAppSelector((root) => nodeName(openSession(root), node))
  const letter = useAppSelector((root) => nodeOf(openSession(root), node)?.letter)
  const chain = useAppSelector((root) => {
    const treatments = chainOf(openSession(root), node)?.treatments ?? []
    return treatments.map((t) => TREATMENT_KINDS[t.kind].name).join(' · ')
  })
  return (
    <ButtonBase
      aria-label={`Show the equaliser of ${name}`}
      onClick={onShow}
      sx={{
        justifyContent: 'flex-start',
        gap: '8px',
        height: 36,
        p: '0 12px 0 10px',
        borderTop: 1,
        borderColor: 'divider',
        font: 'inherit',
        textAlign: 'left',
        '&:hover': { bgcolor: 'action.hover' },
      }}
    >
      {letter && <Badge letter={letter} />}
      <Typography sx={{ fontWeight: 600 }}>{name}</Typography>
      <Typography noWrap color="textSecondary" sx={{ flex: 1, minWidth: 0 }} title={chain}>
        {chain || 'No treatments'}
      </Typography>
      <Typography color="primary">Show the equaliser</Typography>
      <ShowIcon color="primary" />
    </ButtonBase>
  )
}
