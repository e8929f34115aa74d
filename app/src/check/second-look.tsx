import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { type Look, secondLook } from '@sober-prism/core/second-look'
import { chainOf, groupsAbove, type Session, sessionWithout } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { type Analysis, soundState } from '@sober-prism/engine'
import { useEffect, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { Entry, EntryHead, Pane, Row } from '../controls/layout'
import { capital, printed } from '../format'
import { plumb } from '../plot/plumb'
import { useAnalysis, useDesk, useHeard } from '../shell/desk-context'
import { AUDIO_MISSING, useWork } from '../shell/use-asked'
import { useHear } from '../shell/use-hear'
import { interfaceActions } from '../store/interface-slice'
import { useSettledSession } from '../store/settled'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { doubtEdit } from './doubts'
import { RestedEars } from './rested-ears'

/** Moves that deserve a second look, each with what was measured, a way to hear without it, and one answer. */
export function SecondLook() {
  const session = useSettledSession()
  const analysis = useAnalysis('tracks', 'groups', 'mix', 'heard', 'fresh')
  const bare = useBareShares(session)
  const edit = useEdit()
  const past = useAppSelector((root) => root.session.past)
  const looks = useMemo(() => {
    const heard = new Map([...analysis.heard].map(([id, { share }]) => [id, share]))
    return secondLook({
      session,
      levelsOf: (node) => levelsAt(session, analysis, node),
      heard: bare ? heard : new Map(),
      heardBare: bare ?? new Map(),
      calibration: { lufs: -23, dbSpl: session.listeningDbSpl },
      past,
    }).filter((look) => !isLeft(session, look))
  }, [session, analysis, bare, past])
  const unheard = looks.filter((l) => l.kind === 'not-heard' && l.answer)
  return (
    <div style={{ overflowY: 'auto' }}>
      <Pane>
        <Typography role="status">
          {!analysis.fresh
            ? 'Measuring…'
            : looks.length === 0
              ? 'Nothing asks for a second look.'
              : `${looks.length === 1 ? 'One thing asks' : `${looks.length} things ask`} for a second look, what matters most first.`}
        </Typography>
        {unheard.length > 1 && (
          <Row>
            <Button onClick={() => edit(unheard.flatMap((l) => l.answer?.edits ?? []))}>
              Take out all {unheard.length} that nobody hears
            </Button>
          </Row>
        )}
      </Pane>
      <RestedEars session={session} />
      {looks.map((look) => (
        <LookCard key={look.key} look={look} session={session} />
      ))}
    </div>
  )
}

function LookCard({ look, session }: { look: Look; session: Session }) {
  const { node, treatment, band, why, answer } = look
  const [what, evidence] = [printed(look.what), printed(look.evidence)]
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const hear = useHear()
  const navigate = useNavigate()
  const now = useHeard()?.rendition
  const target =
    look.kind === 'lead-lost'
      ? ({ of: 'all' } as const)
      : treatment === null
        ? ({ of: 'chain', node } as const)
        : ({ of: 'treatment', node, treatment } as const)
  const isHeard = now?.kind === 'without' && JSON.stringify(now.target) === JSON.stringify(target)
  const hz = bandHz(session, look)
  const take = () => {
    edit(answer?.edits ?? [])
    dispatch(interfaceActions.noticeShown(`${answer?.name}: ${what}`, 'info', 'edit'))
  }
  const stage = chainOf(session, node)?.treatments.find((t) => t.id === treatment)?.stage
  const open = () => {
    dispatch(
      interfaceActions.treatmentChosen({ node, treatmentId: treatment, bandId: band, stage }),
    )
    void navigate(`/session/${session.id}/${stage}`)
  }
  const doubt = () => {
    if (treatment === null) return
    edit([doubtEdit(node, treatment)])
    dispatch(
      interfaceActions.noticeShown(
        'Kept for the next time this session is opened.',
        'info',
        'edit',
      ),
    )
  }
  const leave = () => {
    const dismissed = {
      key: `look ${look.key}`.slice(0, 300),
      state: stateOf(session, look),
      reason: '',
    }
    edit([{ kind: 'dismiss', dismissed }])
    dispatch(interfaceActions.noticeShown('Left as it is.', 'info', 'edit'))
  }
  return (
    <Entry
      aria-label={what}
      onPointerEnter={() => hz !== null && plumb.set(hz)}
      onPointerLeave={() => plumb.set(null)}
    >
      <EntryHead>
        <Typography variant="h3">{what}</Typography>
      </EntryHead>
      <Typography>{why}</Typography>
      <Typography variant="body2" color="textSecondary">
        {evidence}
      </Typography>
      <Row>
        {answer && (
          <Button variant="contained" onClick={take}>
            {answer.name}
          </Button>
        )}
        <ToggleButton
          value="without"
          selected={isHeard}
          onClick={() => hear(isHeard ? null : { kind: 'without', target })}
        >
          Listen without{' '}
          {look.kind === 'lead-lost' ? 'all' : treatment === null ? 'the chain' : 'it'}
        </ToggleButton>
        {look.kind === 'sibilant-boost' && <LoudestSibilant node={node} />}
        {treatment !== null && (
          <Button variant="text" onClick={doubt}>
            Listen to this tomorrow
          </Button>
        )}
        {stage && (
          <Button variant="text" onClick={open}>
            Open in {capital(stage)}
          </Button>
        )}
        <Button variant="text" onClick={leave}>
          Leave it
        </Button>
      </Row>
    </Entry>
  )
}

/** Loops the loudest S of a voice, with everything that is on it. */
function LoudestSibilant({ node }: { node: string }) {
  const desk = useDesk()
  const hear = useHear()
  const work = useWork()
  const now = useHeard()?.rendition
  const isHeard = now?.kind === 'region' && now.node === node
  const begin = () =>
    work.run(async (running) => {
      const stretch = await desk.ask.loudest({ node, fromHz: 4000, toHz: 10_000 }, running)
      if (!stretch) return work.tell(AUDIO_MISSING)
      hear({ kind: 'region', node, stretch, fromHz: 20, toHz: 20_000 })
    })
  return (
    <>
      <ToggleButton
        value="sibilant"
        selected={isHeard}
        disabled={work.busy !== null}
        onClick={() => (isHeard ? hear(null) : void begin())}
      >
        Loop the loudest S
      </ToggleButton>
      {work.trouble && <Typography color="warning">{work.trouble}</Typography>}
    </>
  )
}

/** It was left as it is, and has not changed since. */
function isLeft(session: Session, look: Look): boolean {
  const key = `look ${look.key}`.slice(0, 300)
  const state = stateOf(session, look)
  return session.dismissed.some((d) => d.key === key && d.state === state)
}

const stateOf = (session: Session, { node }: Look) =>
  soundState(session, node === MIX ? [] : [node])

function bandHz(session: Session, { node, band }: Look): number | null {
  const chain =
    node === MIX
      ? session.mix.chain
      : [...session.tracks, ...session.groups].find((n) => n.id === node)?.chain
  const bands = (chain?.treatments ?? []).flatMap((t) =>
    t.kind === 'equaliser' ? t.params.bands : [],
  )
  return bands.find((b) => b.id === band)?.band.hz ?? null
}

/** Levels of a node behind its chain at its level in the mix; null where they are not measured yet. */
function levelsAt(
  session: Session,
  { tracks, groups, mix }: Pick<Analysis, 'tracks' | 'groups' | 'mix'>,
  node: string,
): ArrayLike<number> | null {
  if (node === MIX) return mix?.levels ?? null
  const levels = (tracks.get(node) ?? groups.get(node))?.levels
  const own = [...session.tracks, ...session.groups].find((n) => n.id === node)
  if (!levels || !own) return null
  const gainDb = groupsAbove(session, node).reduce((sum, g) => sum + g.faderDb, own.faderDb)
  return Float64Array.from(levels, (v) => v + gainDb)
}

/** What is heard of each track without any treatment; null until it is measured. */
function useBareShares(session: Session): ReadonlyMap<string, number> | null {
  const desk = useDesk()
  const [bare, setBare] = useState<{ of: Session; shares: Map<string, number> } | null>(null)
  useEffect(() => {
    if (session.leadIds.length === 0) return
    const controller = new AbortController()
    desk.analyser
      .figuresOf(sessionWithout(session, { of: 'all' }), controller.signal)
      .then(({ heard }) => {
        const shares = new Map([...heard].map(([id, { share }]) => [id, share]))
        setBare({ of: session, shares })
      })
      // What cannot be measured is told where the session is.
      .catch(() => {})
    return () => controller.abort(new DOMException('Another state is measured.', 'AbortError'))
  }, [desk, session])
  return bare?.of === session ? bare.shares : null
}
