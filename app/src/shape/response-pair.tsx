import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import {
  INVENTED_RESPONSES,
  pairOfResponses,
  type Response,
  USUAL_CORRECTION,
} from '@sober-prism/core/match'
import { chainOf, DocumentError, parseCurveCsv } from '@sober-prism/core/session'
import { errorSentence } from '@sober-prism/engine'
import { useRef, useState } from 'react'
import { Choice } from '../controls/choice'
import { Column, Row } from '../controls/layout'
import { useDesk } from '../shell/desk-context'
import { useWork } from '../shell/use-asked'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { Section } from './section'
import { selectShape, shapeActions } from './shape-slice'
import { TakeMatch } from './take-match'

interface Named {
  readonly name: string
  readonly points: Response
}

/** Curves that do not overlap say so themselves. */
const sentence = (error: unknown) =>
  error instanceof RangeError ? error.message : errorSentence(error)

/** From one microphone to another by their published responses: two files, or two that were invented to try it with. */
export function ResponsePair({ node }: { node: string }) {
  const session = useSession()
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const [read, setRead] = useState<readonly Named[]>([])
  const [names, setNames] = useState<readonly [string, string]>(['', ''])
  const { busy, trouble, tell, run } = useWork(sentence)
  const file = useRef<HTMLInputElement>(null)
  const { comparison } = useAppSelector(selectShape)
  const own = comparison?.node === node && !comparison.from ? comparison : null
  const all = [...read, ...INVENTED_RESPONSES]
  const [from, to] = names.map((n, i) => all.find((r) => r.name === n) ?? all[i])
  const take = async (files: readonly File[]) => {
    tell(null)
    for (const f of files) {
      const name = f.name.replace(/\.[^.]+$/, '').slice(0, 100) || 'Response'
      try {
        const points = parseCurveCsv(await f.text())
        setRead((known) => [...known.filter((r) => r.name !== name), { name, points }])
      } catch (error) {
        const sentence = error instanceof DocumentError ? error.message : errorSentence(error)
        tell(`${f.name}: ${sentence}`)
      }
    }
  }
  const compare = () =>
    run(async (options) => {
      const pair = pairOfResponses(from.points, to.points)
      const chain = chainOf(session, node)
      // Published curves are smooth already.
      const settings = { ...USUAL_CORRECTION, smoothing: 1 / 6 }
      const ways = await desk.ask.matchResponses({ pair, settings }, options)
      const target = `${to.name}, from ${from.name}`
      if (!chain || !ways) return
      const made = { node, target, from: null, to: null, pair, ways, settings, chain }
      dispatch(shapeActions.compared(made))
    })
  const choice = (label: string, side: 0 | 1) => (
    <Choice
      label={label}
      value={(side === 0 ? from : to).name}
      options={all.map((r) => [r.name, `${side === 0 ? 'From' : 'To'} ${r.name}`] as const)}
      onChange={(name) => setNames(side === 0 ? [name, to.name] : [from.name, name])}
    />
  )
  return (
    <Section
      of="responses"
      title="Published responses"
      says="One microphone’s sound from another’s, by their curves"
    >
      <Typography variant="body2" color="textSecondary">
        Turn one microphone’s sound into another’s by two response curves (CSV of Hz and dB). Those
        listed are invented.
      </Typography>
      <Row>
        {choice('Source response', 0)}
        {choice('Target response', 1)}
      </Row>
      <Row>
        <Button disabled={busy !== null || from.name === to.name} onClick={() => void compare()}>
          {busy !== null ? 'Working…' : `Match ${nodeName(session, node)}`}
        </Button>
        <Button variant="text" onClick={() => file.current?.click()}>
          Import curves…
        </Button>
        <input
          ref={file}
          type="file"
          multiple
          hidden
          accept=".csv,text/csv"
          aria-label="Response files"
          onChange={({ target }) => {
            void take([...(target.files ?? [])])
            target.value = ''
          }}
        />
      </Row>
      <Column aria-live="polite">
        {trouble && <Typography color="warning">{trouble}</Typography>}
        {own && busy === null && <TakeMatch comparison={own} />}
      </Column>
    </Section>
  )
}
