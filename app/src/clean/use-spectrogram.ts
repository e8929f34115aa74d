import { type Chain, referencePassage, sessionFrames } from '@sober-prism/core/session'
import { respondChain } from '@sober-prism/core/treatments'
import { errorSentence, type PicturePart } from '@sober-prism/engine'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSettledSession } from '../store/settled'
import { useAppDispatch } from '../store/store'
import type { SpectrogramSide, SpectrogramView } from './clean-slice'
import { COLUMNS, ROWS } from './draw-spectrogram'

/** A picture of a node over a part of the passage, with what it was drawn for. */
export interface SpectrogramReading {
  /** What is drawn: `ROWS × COLUMNS` levels in dB. */
  readonly levels: Float32Array
  /** The same before the chain, where both are looked at. */
  readonly before: Float32Array | null
  readonly view: SpectrogramView
  /** Edges of the columns, in Hz. */
  readonly edgesHz: Float64Array
  readonly stretch: { readonly fromFrame: number; readonly toFrame: number }
}

/** Longer recordings are drawn coarsely first, in so many rows less. */
const LONG_SECONDS = 10
const COARSE = 16
const NOT_YET_DB = -200

const NO_PICTURES: readonly [Float32Array | null, Float32Array | null] = [null, null]

/** Rows of a coarse picture, each as often as it stands for. */
function stretched(levels: Float32Array): Float32Array {
  const all = new Float32Array(ROWS * COLUMNS)
  for (let r = 0; r < ROWS; r++) {
    const from = Math.floor(r / COARSE) * COLUMNS
    all.set(levels.subarray(from, from + COLUMNS), r * COLUMNS)
  }
  return all
}

/** A picture with some of its rows made. */
function withRows(before: Float32Array | null, { fromRow, levels }: PicturePart): Float32Array {
  const all = before?.slice() ?? new Float32Array(ROWS * COLUMNS).fill(NOT_YET_DB)
  all.set(levels, fromRow * COLUMNS)
  return all
}

/** A picture as what stands still of a chain leaves it: for the first look, until the sound has passed it. */
function through(
  recorded: Float32Array,
  { treatments, output }: Chain,
  edgesHz: Float64Array,
  rateHz: number,
): Float32Array {
  const middles = edgesHz.subarray(1).map((hz, i) => Math.sqrt(hz * edgesHz[i]))
  const db = respondChain(treatments, rateHz, 'mid').db(middles)
  return recorded.map((level, i) => level + db[i % COLUMNS] + output.gainDb)
}

/** Edges of as many ranges of frequency as a picture has columns, each as wide on the ruler. */
export function columnEdges({ lowHz, highHz }: SpectrogramView): Float64Array {
  return Float64Array.from(
    { length: COLUMNS + 1 },
    (_, i) => lowHz * (highHz / lowHz) ** (i / COLUMNS),
  )
}

/**
 * A picture of a node, or of a reference, over a part of the passage; null until it is there, the last one until the next is.
 */
export function useSpectrogram(
  node: string,
  side: SpectrogramSide,
  size: number,
  view: SpectrogramView,
): { readonly reading: SpectrogramReading | null; readonly drawn: number } {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const session = useSettledSession()
  const [drawn, setDrawn] = useState(0)
  /** Of which node there is a picture to look at until the next one is drawn. */
  const pictured = useRef('')
  const [made, setMade] = useState<{ of: string; reading: SpectrogramReading } | null>(null)
  const track = session.tracks.find((t) => t.id === node)
  const reference = session.references.find((r) => r.id === node)
  const { passage, sampleRateHz: rateHz } = session
  // A track as recorded depends on its audio alone; everything else on the chains it passes.
  const isRecorded = side === 'recorded' || side === 'reference'
  // What is ahead of its chain and in it changes the picture of a track; of a bus, all that flows into it.
  const chain = isRecorded && (track || reference) ? null : (track?.chain ?? session)
  const trimDb = track?.trimDb
  const [hash, offset] = [track?.audio.hash, track?.offsetFrames]
  const frames = sessionFrames(session)
  const own = reference && referencePassage(session, reference)
  const [from, to] = own
    ? [own.fromFrame, own.toFrame]
    : [passage?.fromFrame ?? 0, passage?.toFrame ?? frames]
  const whole = useMemo(() => ({ fromFrame: from, toFrame: to }), [from, to])
  // biome-ignore lint/correctness/useExhaustiveDependencies: chain, audio and place change the picture, though the desk holds them.
  useEffect(() => {
    if (side === 'off') return
    const controller = new AbortController()
    const { signal } = controller
    const length = whole.toFrame - whole.fromFrame
    const stretch = {
      fromFrame: Math.round(whole.fromFrame + view.from * length),
      toFrame: Math.round(whole.fromFrame + view.to * length),
    }
    const edgesHz = columnEdges(view)
    const asked = { size, rows: ROWS, edgesHz, stretch }
    setDrawn(0)
    const isFirst = pictured.current !== node
    const show = (levels: Float32Array, before: Float32Array | null) =>
      setMade({ of: node, reading: { levels, before, view, edgesHz, stretch } })
    const draw = (
      of: 'recorded' | 'treated',
      onProgress: (share: number, part?: PicturePart) => void = setDrawn,
    ) => desk.ask.spectrogram({ node, side: of, ...asked }, { signal, onProgress })
    /** What is shown while it grows: of a node of which there is a picture already, that one. */
    let growing: Float32Array | null = null
    let beside: Float32Array | null = null
    const inFull = () =>
      Promise.all([
        draw(isRecorded ? 'recorded' : 'treated', (share, part) => {
          setDrawn(share)
          if (!part || !isFirst || signal.aborted) return
          growing = withRows(growing, part)
          show(growing, beside)
        }),
        side === 'both' ? draw('recorded') : null,
      ])
    // A long recording is shown coarsely first: reading all of it from storage takes its time.
    const coarsely = async () => {
      const coarse = await desk.ask.spectrogram(
        { node, side: 'recorded', ...asked, rows: ROWS / COARSE },
        { signal },
      )
      if (signal.aborted || !coarse) return
      const recorded = stretched(coarse)
      growing = isRecorded || !track ? recorded : through(recorded, track.chain, edgesHz, rateHz)
      beside = side === 'both' ? recorded : null
      show(growing, beside)
    }
    const isLong = stretch.toFrame - stretch.fromFrame > LONG_SECONDS * rateHz
    const pictures: Promise<typeof NO_PICTURES> =
      isLong && isFirst && (track || reference)
        ? coarsely().then(() => (signal.aborted ? NO_PICTURES : inFull()))
        : inFull()
    pictures
      .then(([levels, before]) => {
        if (signal.aborted || !levels) return
        pictured.current = node
        show(levels, before)
      })
      .catch((error) => {
        if (signal.aborted) return
        dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
      })
    return () => controller.abort()
  }, [desk, dispatch, node, side, isRecorded, size, view, chain, trimDb, hash, offset, whole])
  return { reading: side !== 'off' && made?.of === node ? made.reading : null, drawn }
}
