import { useState } from 'react'
import { Link, NavLink, useParams } from 'react-router'
import { redo, undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useRoot, useSend } from '../store/store'
import { KeysDialog } from './keys-dialog'
import { WorkNote } from './work-note'

/** The steps that work in this version, in the order of work. */
const STEPS = [
  ['gather', 'Gather'],
  ['survey', 'Survey'],
  ['deliver', 'Deliver'],
] as const

export function Header() {
  const { id = '' } = useParams()
  const session = useSession()
  const send = useSend()
  const sheet = useRoot((root) => root.interface.sheet)
  const eyesClosed = useRoot((root) => root.interface.eyesClosed)
  const canUndo = useRoot((root) => root.session.past.length > 0)
  const canRedo = useRoot((root) => root.session.future.length > 0)
  const [keysOpen, setKeysOpen] = useState(false)
  return (
    <header className="header">
      <Link className="product" to="/" title="All sessions">
        Sober Prism
      </Link>
      <span className="session-name clip" title={session.name}>
        {session.name}
      </span>
      <nav className="steps" aria-label="Steps">
        {STEPS.map(([path, name]) => (
          <NavLink key={path} to={`/session/${id}/${path}`}>
            {name}
          </NavLink>
        ))}
      </nav>
      <WorkNote />
      <div className="header-tools">
        <button type="button" disabled={!canUndo} onClick={() => send(undo())}>
          Undo
        </button>
        <button type="button" disabled={!canRedo} onClick={() => send(redo())}>
          Redo
        </button>
        <button
          type="button"
          aria-pressed={eyesClosed}
          onClick={() => send(interfaceActions.eyesSwitched())}
        >
          Eyes closed
        </button>
        <button
          type="button"
          aria-pressed={sheet === 'night'}
          onClick={() => send(interfaceActions.sheetTurned())}
        >
          Night
        </button>
        <button type="button" onClick={() => setKeysOpen(true)}>
          Keys
        </button>
      </div>
      <KeysDialog open={keysOpen} onClose={() => setKeysOpen(false)} />
    </header>
  )
}
