import Dialog from '@mui/material/Dialog'
import { KEYS } from './keys'

export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="keys-title">
      <div className="dialog">
        <h2 id="keys-title">Keys</h2>
        <table className="keys">
          <tbody>
            {KEYS.map(([key, does]) => (
              <tr key={key}>
                <th scope="row">{key}</th>
                <td>{does}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <button type="button" className="primary" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  )
}
