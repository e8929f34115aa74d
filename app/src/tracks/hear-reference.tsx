import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { errorSentence } from '@sober-prism/engine'
import { useDesk, useHeard } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch } from '../store/store'
import styles from './tracks.module.css'

/** Lets a reference be heard in place of the mix, as loud as it. */
export function HearReference({ id, name }: { id: string; name: string }) {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const rendition = useHeard()?.rendition
  const isHeard = rendition?.kind === 'reference' && rendition.reference === id
  return (
    <ToggleButton
      value={id}
      selected={isHeard}
      aria-label={`Hear ${name} in place of the mix`}
      title="As loud as the mix over the passage (R)"
      onClick={() => {
        if (isHeard) return desk.stopHearing()
        desk
          .hear({ kind: 'reference', reference: id })
          .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
      }}
    >
      Hear
    </ToggleButton>
  )
}

/** The references of a session, under its mix. */
export function ReferenceRows() {
  const { references } = useSession()
  return references.map(({ id, name }) => (
    <div key={id} className={styles.reference}>
      <Typography noWrap title={name} sx={{ fontStyle: 'italic' }}>
        {name}
      </Typography>
      <Typography variant="caption" color="text.secondary">
        reference
      </Typography>
      <HearReference id={id} name={name} />
    </div>
  ))
}
