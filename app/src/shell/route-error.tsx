import Button from '@mui/material/Button'
import { errorSentence } from '@sober-prism/engine'
import { isRouteErrorResponse, useRouteError } from 'react-router'
import { PageNote } from './page-note'

/** What is shown where a page could not be shown: why, and the ways back. What was stored is untouched. */
export function RouteError() {
  const error = useRouteError()
  const text = isRouteErrorResponse(error)
    ? 'There is no page at this address.'
    : isMissingPart(error)
      ? 'A part of the app could not be fetched. Reload the page; what you did is stored.'
      : `This page could not be shown: ${errorSentence(error)} What you did is stored.`
  return (
    <PageNote alert text={text}>
      <Button variant="contained" onClick={() => window.location.reload()}>
        Reload the page
      </Button>
    </PageNote>
  )
}

/** A module that the server no longer has, or did not send. */
function isMissingPart(error: unknown): boolean {
  return error instanceof TypeError && /module|import/i.test(error.message)
}
