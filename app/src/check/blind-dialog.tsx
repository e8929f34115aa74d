import PauseIcon from '@mui/icons-material/Pause'
import PlayIcon from '@mui/icons-material/PlayArrow'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { type BlindAnswer, blindOrder } from '@sober-prism/core/blind-test'
import type { BlindTest } from '@sober-prism/core/session'
import { type BlindPlace, errorSentence } from '@sober-prism/engine'
import { type KeyboardEvent, useEffect, useMemo, useState } from 'react'
import { IconAction } from '../controls/icon-action'
import { Column, Row } from '../controls/layout'
import { useDesk, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { blindVerdict } from './blind-words'

interface Place {
  readonly place: BlindPlace
  readonly title: string
  readonly note: string
  readonly key: 'ArrowLeft' | 'ArrowDown' | 'ArrowRight'
}

const KEY_NAMES = { ArrowLeft: '←', ArrowDown: '↓', ArrowRight: '→' } as const

function placesOf({ kind, first, second }: BlindTest): readonly Place[] {
  if (kind === 'better') {
    return [
      { place: 'hidden', title: 'Left', note: 'not told', key: 'ArrowLeft' },
      { place: 'other', title: 'Right', note: 'not told', key: 'ArrowRight' },
    ]
  }
  return [
    { place: 'first', title: first.name, note: 'the first', key: 'ArrowLeft' },
    { place: 'hidden', title: 'X', note: 'one of both, not told', key: 'ArrowDown' },
    { place: 'second', title: second.name, note: 'the second', key: 'ArrowRight' },
  ]
}

/** A blind test while it runs, and its result: all else is out of sight. */
export function BlindDialog({ id, onClose }: { id: string; onClose: () => void }) {
  const test = useSession().blindTests.find((t) => t.id === id)
  if (!test) return null
  return (
    <Dialog
      open
      fullScreen
      aria-labelledby="blind-title"
      onClose={(_, reason) => reason === 'escapeKeyDown' && onClose()}
    >
      <DialogTitle id="blind-title">
        {test.kind === 'which' ? 'Which is it?' : 'Which do you like better?'}
      </DialogTitle>
      <DialogContent sx={{ maxWidth: 900 }}>
        {test.answers.length < test.trials ? (
          <Trial test={test} onLeave={onClose} />
        ) : (
          <Result test={test} onClose={onClose} />
        )}
      </DialogContent>
    </Dialog>
  )
}

function Trial({ test, onLeave }: { test: BlindTest; onLeave: () => void }) {
  const { kind, first, second, trials, seed, answers } = test
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const playing = useSignal(desk.player.playingSignal)
  const order = useMemo(() => blindOrder(seed, trials), [seed, trials])
  const at = answers.length
  const places = placesOf(test)
  const [heard, setHeard] = useState<BlindPlace | null>(null)
  const tell = (error: unknown) =>
    void dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
  useEffect(() => {
    desk.setBlind({ first: first.id, second: second.id, hidden: order[at] })
    // The next trial begins in silence: nothing is heard of it that was not asked for.
    setHeard(null)
    desk.player.pause()
    return () => desk.setBlind(null)
  }, [desk, first.id, second.id, order, at])
  const listen = (place: BlindPlace) => {
    setHeard(place)
    desk.hear({ kind: 'blind', place }).catch(tell)
    if (!desk.player.playing) desk.player.play().catch(tell)
  }
  const play = () => {
    if (desk.player.playing) desk.player.pause()
    else if (heard === null) listen(places[0].place)
    else desk.player.play().catch(tell)
  }
  /** @param side the left answer or the right one. */
  const answer = (side: 'left' | 'right') => {
    const hidden = order[at]
    const other: BlindAnswer = hidden === 'first' ? 'second' : 'first'
    const plain = side === 'left' ? 'first' : 'second'
    const given = kind === 'which' ? plain : side === 'left' ? hidden : other
    edit([{ kind: 'keep-blind-test', test: { ...test, answers: [...answers, given] } }], {
      listening: true,
    })
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const place = places.find((p) => p.key === event.key)
    if (!place) return
    event.preventDefault()
    event.stopPropagation()
    if (!event.shiftKey) return listen(place.place)
    if (place.key !== 'ArrowDown') answer(place.key === 'ArrowLeft' ? 'left' : 'right')
  }
  const sides = kind === 'which' ? [first.name, second.name] : ['Left', 'Right']
  return (
    <Column sx={{ gap: '18px' }} onKeyDown={onKeyDown}>
      <Typography color="textSecondary">
        {kind === 'which'
          ? `X is ${first.name} or ${second.name}, by coins thrown beforehand.`
          : 'Both play in an order of their own in each trial, by coins thrown beforehand.'}{' '}
        Trial {at + 1} of {trials}.
      </Typography>
      <Row sx={{ gap: '14px', alignItems: 'stretch', flexWrap: 'nowrap' }}>
        {places.map(({ place, title, note, key }, i) => (
          <ToggleButton
            key={place}
            value={place}
            selected={heard === place}
            autoFocus={i === 0}
            aria-label={`Listen to ${title}`}
            sx={{ flex: 1, minWidth: 0, height: 130, display: 'grid', alignContent: 'center' }}
            onClick={() => listen(place)}
          >
            <Typography variant="h1" component="span" noWrap sx={{ maxWidth: '100%' }}>
              {title}
            </Typography>
            <span>
              {note} · {KEY_NAMES[key]}
            </span>
          </ToggleButton>
        ))}
      </Row>
      <Row>
        <IconAction
          label={playing ? 'Pause' : 'Play'}
          icon={playing ? <PauseIcon /> : <PlayIcon />}
          onClick={play}
        />
        <Typography role="status">
          {heard === null
            ? 'Listen to each as often as you like, at the same place and as loud as each other.'
            : `You hear ${places.find((p) => p.place === heard)?.title}.`}
        </Typography>
      </Row>
      <Row sx={{ gap: '10px' }}>
        <Typography>{kind === 'which' ? 'X is' : 'I like better'}</Typography>
        {(['left', 'right'] as const).map((side, i) => (
          <Button key={side} onClick={() => answer(side)}>
            {sides[i]} (Shift {i === 0 ? '←' : '→'})
          </Button>
        ))}
        <Typography color="textSecondary">An answer cannot be taken back.</Typography>
      </Row>
      <Row sx={{ gap: '6px' }} role="img" aria-label={`${at} of ${trials} answered`}>
        {order.map((_, i) => (
          <Box
            // biome-ignore lint/suspicious/noArrayIndexKey: trials are told apart by their place alone.
            key={i}
            sx={{
              width: 18,
              height: 14,
              border: 1,
              borderColor: i === at ? 'primary.main' : 'text.secondary',
              bgcolor: i < at ? 'text.primary' : 'transparent',
            }}
          />
        ))}
      </Row>
      <Row>
        <Button variant="text" onClick={onLeave}>
          Leave (Esc)
        </Button>
        <Typography variant="body2" color="textSecondary">
          Right and wrong are told at the end. Left earlier, it is kept as not finished.
        </Typography>
      </Row>
    </Column>
  )
}

function Result({ test, onClose }: { test: BlindTest; onClose: () => void }) {
  const { score, odds, verdict } = blindVerdict(test)
  const { kind, first, second, seed, trials, answers } = test
  const order = blindOrder(seed, trials)
  const nameOf = (a: BlindAnswer) => (a === 'first' ? first.name : second.name)
  return (
    <Column sx={{ gap: '12px', justifyItems: 'start' }}>
      <Typography variant="h1" component="p" role="status">
        {score}
      </Typography>
      <Typography>{odds}</Typography>
      <Typography>{verdict}</Typography>
      <Typography color="textSecondary">
        {kind === 'which' ? 'X was' : 'At the left was'}, trial by trial (seed {seed}):{' '}
        {order
          .map((o, i) =>
            kind === 'which'
              ? `${nameOf(o)} ${answers[i] === o ? '✓' : '✗'}`
              : `${nameOf(o)}, liked ${nameOf(answers[i])}`,
          )
          .join('; ')}
        .
      </Typography>
      <Button variant="contained" autoFocus onClick={onClose}>
        Close
      </Button>
    </Column>
  )
}
