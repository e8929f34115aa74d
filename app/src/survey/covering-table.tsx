import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import type { Track } from '@sober-prism/core/session'
import type { HeardTrack } from '@sober-prism/engine'
import { Fragment, type KeyboardEvent, useMemo, useRef, useState } from 'react'
import { Badge } from '../controls/badge'
import { Pane } from '../controls/layout'
import { Term } from '../controls/term'
import { formatShare } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName } from '../store/selectors'
import { useSettledSession } from '../store/settled'
import { useAppDispatch } from '../store/store'

/** Up to this many tracks, cells have room for figures, and rows for names. */
const WITH_FIGURES = 9
const NAME_PIXELS = 96
const HEARD_PIXELS = 42

const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
}

/** The one cell that the tab key reaches: the last one stood on, else the first pair. */
function isEntry(
  [row, column]: readonly [string, string],
  tracks: readonly Track[],
  target: string,
  masker: string,
): boolean {
  const known = tracks.some((t) => t.id === row) && tracks.some((t) => t.id === column)
  return known
    ? target === row && masker === column
    : target === tracks[0].id && masker === tracks[1].id
}

const COVERING = {
  borderCollapse: 'collapse',
  tableLayout: 'fixed',
  width: '100%',
  '& :is(th, td)': {
    p: 0,
    height: 24,
    textAlign: 'center',
    overflow: 'hidden',
    typography: 'figure',
  },
  '& tbody td': {
    border: 1,
    borderColor: 'divider',
    background: 'color-mix(in srgb, var(--density) calc(var(--lost) * 38%), transparent)',
  },
  '& tbody td[data-self="true"]': { background: 'none', borderColor: 'transparent' },
  '& tbody td[data-pointed="true"]': {
    outline: '2px solid',
    outlineColor: 'primary.main',
    outlineOffset: -2,
  },
}
/** Of many tracks letters have room, figures have not. */
const MANY = { '& :is(th, td)': { height: 14, fontSize: 12 }, '& td > span': { fontSize: 0 } }

/** Masking, for all pairs: each row is a track, each column what it loses to another. */
export function CoveringTable() {
  const session = useSettledSession()
  const { covering, heard, mono } = useAnalysis('covering', 'heard', 'mono')
  const dispatch = useAppDispatch()
  const [pointed, setPointed] = useState<readonly [string, string] | null>(null)
  const body = useRef<HTMLTableSectionElement>(null)
  // The cell that the keyboard stands on; from it arrows go on.
  const cell = useRef<readonly [string, string]>(['', ''])
  const tracks = session.tracks.filter((t) => !t.mute && heard.has(t.id))
  const shares = useMemo(
    () => new Map(covering.map((c) => [`${c.targetId} ${c.maskerId}`, c.share])),
    [covering],
  )
  const share = (target: string, masker: string) => shares.get(`${target} ${masker}`) ?? 0
  if (tracks.length < 2)
    return <Typography sx={{ p: '10px 14px' }}>Two tracks or more are needed.</Typography>
  const [target, masker] = pointed ?? ['', '']
  const voices = tracks.filter((t) => (heard.get(t.id)?.understood ?? null) !== null)
  const withNames = tracks.length <= WITH_FIGURES
  const onKeyDown = (event: KeyboardEvent) => {
    const [down, right] = ARROWS[event.key] ?? [0, 0]
    if (down === 0 && right === 0) return
    event.preventDefault()
    const at = (id: string) =>
      Math.max(
        0,
        tracks.findIndex((t) => t.id === id),
      )
    const within = (i: number) => Math.max(0, Math.min(tracks.length - 1, i))
    const [row, column] = [within(at(cell.current[0]) + down), within(at(cell.current[1]) + right)]
    const next = body.current?.children[row]?.children[column + 1]
    if (next instanceof HTMLElement) next.focus()
  }
  return (
    <Pane>
      <Typography variant="body2" color="textSecondary">
        Share of each row’s loudness masked by each column, in percent
        {mono ? ', in mono' : ''}. The row’s rest is heard.
      </Typography>
      <Typography aria-live="polite" sx={{ minHeight: 40 }}>
        {pointed
          ? `${nodeName(session, target)}: ${formatShare(share(target, masker), 1)} masked by ${nodeName(session, masker)}.`
          : 'Point to a cell to read it, or use the arrow keys.'}
      </Typography>
      <Box component="table" sx={withNames ? COVERING : [COVERING, MANY]}>
        <thead>
          <tr>
            <td style={withNames ? { width: NAME_PIXELS } : undefined} />
            {tracks.map((m) => (
              <th key={m.id} scope="col" title={m.name}>
                {m.letter}
              </th>
            ))}
            {withNames && (
              <th scope="col" style={{ width: HEARD_PIXELS }}>
                heard
              </th>
            )}
          </tr>
        </thead>
        <tbody ref={body} onKeyDown={onKeyDown}>
          {tracks.map((t) => (
            <tr key={t.id}>
              <th scope="row" title={t.name} style={withNames ? { textAlign: 'left' } : undefined}>
                <ButtonBase
                  aria-label={t.name}
                  sx={{ font: 'inherit', maxWidth: '100%' }}
                  onClick={() => dispatch(interfaceActions.nodeChosen(t.id))}
                >
                  {withNames ? (
                    <Typography
                      component="span"
                      variant="body2"
                      noWrap
                      sx={{ color: 'text.primary' }}
                    >
                      {t.letter} {t.name}
                    </Typography>
                  ) : (
                    t.letter
                  )}
                </ButtonBase>
              </th>
              {tracks.map((m) => {
                const lost = share(t.id, m.id)
                const same = m.id === t.id
                return (
                  <td
                    key={m.id}
                    data-self={same}
                    data-pointed={t.id === target && m.id === masker}
                    style={{ '--lost': same ? 0 : Math.min(1, lost / 0.5) } as React.CSSProperties}
                    tabIndex={isEntry(cell.current, tracks, t.id, m.id) ? 0 : -1}
                    aria-label={
                      same ? t.name : `${t.name}: ${formatShare(lost, 1)} masked by ${m.name}`
                    }
                    onFocus={() => {
                      cell.current = [t.id, m.id]
                      setPointed(same ? null : [t.id, m.id])
                    }}
                    onBlur={() => setPointed(null)}
                    onPointerEnter={() => setPointed(same ? null : [t.id, m.id])}
                    onPointerLeave={() => setPointed(null)}
                  >
                    <span>{same ? '' : (100 * lost).toFixed(0)}</span>
                  </td>
                )
              })}
              {withNames && (
                <td data-self="true">{(100 * (heard.get(t.id)?.share ?? 0)).toFixed(0)}</td>
              )}
            </tr>
          ))}
        </tbody>
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: '28px minmax(0, 1fr) auto',
          alignItems: 'center',
          justifyItems: 'start',
          gap: '3px 8px',
        }}
      >
        {(withNames ? voices : tracks).map((t) => (
          <Fragment key={t.id}>
            <Badge letter={t.letter} lead={session.leadIds.includes(t.id)} />
            <span className="clip">{t.name}</span>
            <Typography variant="figure">
              {formatShare(heard.get(t.id)?.share ?? 0)} heard
            </Typography>
            <WordsUnderstood heard={heard.get(t.id)} />
          </Fragment>
        ))}
      </Box>
    </Pane>
  )
}

/** How well the words of a voice are understood, in a line under what of it is heard. */
function WordsUnderstood({ heard }: { heard: HeardTrack | undefined }) {
  const understood = heard?.understood ?? null
  if (understood === null) return null
  return (
    <>
      <Typography
        variant="body2"
        color="textSecondary"
        sx={{ gridColumn: '2 / 3', justifySelf: 'end' }}
      >
        <Term word="words">words</Term>
      </Typography>
      <Typography variant="figure">{understood.toFixed(2)}</Typography>
    </>
  )
}
