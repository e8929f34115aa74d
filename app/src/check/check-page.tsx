import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Tab from '@mui/material/Tab'
import Tabs from '@mui/material/Tabs'
import Typography from '@mui/material/Typography'
import { useEffect, useMemo, useState } from 'react'
import { Choice } from '../controls/choice'
import { Intro } from '../controls/intro'
import { Pane, Row } from '../controls/layout'
import { NoTracks } from '../controls/no-tracks'
import { useDesk, useHeard } from '../shell/desk-context'
import { stepKeys } from '../shell/keys'
import { Step } from '../shell/step'
import { useHear } from '../shell/use-hear'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { BlindTests } from './blind-tests'
import { DifferencePlot } from './difference-plot'
import { Differences } from './differences'
import { HeardThere } from './heard-there'
import { NullTest } from './null-test'
import { OtherPlayback, usePlaybackShown } from './other-playback'
import { SecondLook } from './second-look'
import { StateTable } from './state-table'
import { type ComparedState, toneBetween, useStates, WHAT_STANDS } from './use-states'
import { VariationNote } from './variation-note'

const TABS = [
  ['compare', 'Compare'],
  ['blind', 'Blind test'],
  ['look', 'Second look'],
  ['playback', 'Other playback'],
  ['null', 'Null test'],
] as const

/** Several states of the session against each other, as loud as each other. */
export function Component() {
  const session = useSession()
  const { states, figures, missing, trouble } = useStates()
  const [chosen, setChosen] = useState<string | null>(null)
  const [tab, setTab] = useState<(typeof TABS)[number][0]>('compare')
  const playback = usePlaybackShown()
  const now = states.find((s) => s.isWorkedIn) ?? states[0]
  const others = states.filter((s) => s !== now)
  const heard = useComparison(states)
  // Where none is chosen, what is heard, else the variation before.
  const other = others.find((s) => s.id === (chosen ?? heard.id)) ?? before(states, now)
  const [first, second] = [figures.get(other.id), figures.get(now.id)]
  const difference = useMemo(
    () => (first && second ? toneBetween(first.mix, second.mix) : null),
    [first, second],
  )
  if (session.tracks.length === 0) {
    return (
      <Step intro={<CheckIntro />} evidenceName="What differs" evidence={null}>
        <NoTracks text="No tracks yet. Import tracks to keep several ways of mixing them." />
      </Step>
    )
  }
  return (
    <Step
      intro={<CheckIntro />}
      evidenceName={tab === 'playback' ? 'Who is heard there' : 'What differs'}
      evidence={
        tab === 'playback' ? (
          <HeardThere choice={playback.choice} />
        ) : (
          <>
            <Pane>
              <Row>
                <Typography>{titleOf(now)} against</Typography>
                <Choice
                  label="Compared with"
                  value={other.id}
                  options={others.map((s) => [s.id, titleOf(s)] as const)}
                  onChange={setChosen}
                />
              </Row>
              <VariationNote state={now} />
              <VariationNote state={other} />
            </Pane>
            <Differences now={now} other={other} />
          </>
        )
      }
    >
      <Box
        sx={{
          display: 'grid',
          gridTemplateRows:
            tab === 'compare'
              ? 'auto minmax(0, auto) auto minmax(170px, 1fr)'
              : 'auto minmax(0, 1fr)',
          minHeight: 0,
          minWidth: 0,
        }}
      >
        <Tabs
          value={tab}
          aria-label="Ways to check"
          sx={{ borderBottom: 1, borderColor: 'divider', minHeight: 32, px: '6px' }}
          onChange={(_, to: typeof tab) => setTab(to)}
        >
          {TABS.map(([value, label]) => (
            <Tab
              key={value}
              value={value}
              label={label}
              data-command={`tab-${value}`}
              sx={{ minHeight: 31 }}
            />
          ))}
        </Tabs>
        {tab === 'blind' && <BlindTests states={states} />}
        {tab === 'look' && <SecondLook />}
        {tab === 'null' && <NullTest states={states} />}
        {tab === 'playback' && <OtherPlayback {...playback} />}
        {tab === 'compare' && (
          <>
            <Box sx={{ overflow: 'auto', scrollbarWidth: 'thin', p: '4px 12px 0 10px' }}>
              <StateTable
                session={session}
                states={states}
                figures={figures}
                heard={heard.id}
                onHear={heard.hear}
              />
            </Box>
            <Row sx={{ p: '8px 12px 8px 10px', borderBottom: 1, borderColor: 'divider' }}>
              <KeepVariation />
              <Typography
                role="status"
                variant="body2"
                color={trouble ? 'warning' : 'textSecondary'}
              >
                {trouble ??
                  (missing > 0
                    ? `Measuring, ${missing} left…`
                    : 'Press a state’s numeral to hear it from where you are.')}
              </Typography>
            </Row>
            <DifferencePlot
              difference={difference}
              title={`${titleOf(now)} against ${titleOf(other)}`}
              note="at equal loudness over the passage"
              label="Difference in tone"
            />
          </>
        )}
      </Box>
    </Step>
  )
}

function before(states: readonly ComparedState[], now: ComparedState): ComparedState {
  const at = states.indexOf(now)
  // The session as it came is the first: beside the first variation another one says more.
  return (at === 1 ? states[2] : undefined) ?? states[at - 1] ?? states[0]
}

const titleOf = ({ sign, name }: ComparedState) => (sign ? `${sign} ${name}` : name)

function CheckIntro() {
  return (
    <Intro step="check">
      Keep several ways open, hear them at equal loudness, see what differs.
    </Intro>
  )
}

/** Keeps what stands as a variation, to go on in; the one that was worked in stays as it is. */
function KeepVariation() {
  const { variations } = useSession()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const keep = () => {
    const taken = variations.list.map((v) => v.number)
    let number = 1
    while (taken.includes(number)) number++
    const name = `Variation ${number}`
    const keptAt = new Date().toISOString()
    edit([{ kind: 'keep-variation', id: crypto.randomUUID(), name, keptAt }])
    if (number > 9) return
    const said =
      variations.list.length === 0
        ? `What stands is ${name} now. Keep it again before you try something else.`
        : `Kept. Work goes on in ${name}.`
    dispatch(interfaceActions.noticeShown(said))
  }
  return (
    <Button variant="contained" data-command="keep-variation" onClick={keep}>
      Keep what stands as a new variation
    </Button>
  )
}

/** Holds all states ready while the page is open, each heard by its numeral; by the same again, the session. */
function useComparison(states: readonly ComparedState[]) {
  const desk = useDesk()
  const hearRendition = useHear()
  const rendition = useHeard()?.rendition
  // What stands is heard as it is, until there is a variation to tell it from.
  const ids = useMemo(() => states.map((s) => s.id).filter((id) => id !== WHAT_STANDS), [states])
  const id = rendition?.kind === 'variation' ? rendition.variation : null
  const of = ids.join()
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same states are held once.
  useEffect(() => {
    desk.compare(ids)
  }, [desk, of])
  useEffect(() => () => desk.compare([]), [desk])
  const hear = useMemo(
    () => (wanted: string) => {
      const now = desk.heard.value?.rendition
      const isHeard = now?.kind === 'variation' && now.variation === wanted
      const isPlain = isHeard || wanted === WHAT_STANDS
      hearRendition(isPlain ? null : { kind: 'variation', variation: wanted })
    },
    [desk, hearRendition],
  )
  useEffect(() => {
    const keys = states.flatMap(({ sign, id: of }) =>
      sign === '' ? [] : [[sign === '−' ? '-' : sign, () => hear(of)] as const],
    )
    stepKeys.set(new Map(keys))
    return () => stepKeys.set(new Map())
  }, [states, hear])
  return { id, hear }
}
