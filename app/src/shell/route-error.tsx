import Button from '@mui/material/Button'
import { errorSentence, lacking } from '@sober-prism/engine'
import { isRouteErrorResponse, useRouteError } from 'react-router'
import { PageNote } from './page-note'

/** What is shown where a page could not be shown: why, and the ways back. What was stored is untouched. */
export function RouteError() {
  const error = useRouteError()
  const text = isRouteErrorResponse(error)
    ? 'No page at this address.'
    : isMissingPart(error)
      ? 'Part of the app could not be loaded. Your work is saved; reload the page.'
      : (error instanceof ReferenceError && lacking(globalThis)) ||
        `This page could not be shown: ${errorSentence(error)} Your work is saved.`
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
