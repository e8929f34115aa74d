import { Link } from 'react-router'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { useSession } from '../store/selectors'
import { FindingsPane } from './findings-pane'
import { Strips } from './strips'

/** The whole first: every track, the mix and a reference on one ruler, and what covers the lead. */
export function SurveyPage() {
  const session = useSession()
  if (session.tracks.length === 0) {
    return (
      <main className="page-note">
        <p>There are no tracks to survey yet.</p>
        <Link to="../gather">Bring in tracks</Link>
      </main>
    )
  }
  return (
    <main className="survey">
      <div className="survey-left">
        <Strips />
        <EqualiserSheet />
      </div>
      <FindingsPane />
    </main>
  )
}
