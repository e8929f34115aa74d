import { BLOCK_FRAMES, readBlocks } from '../storage/recordings'
import { type LifeMessage, showLife } from '../work/life'
import { placesIn, spansAhead } from './feed-plan'
import type { FromMixer, ToFeeder } from './messages'
import { SLOT_FRAMES, WindowSource } from './window-source'

/** A recording in work: its window, where its blocks are, and the places on the time line at which it begins. */
interface Fed {
  readonly source: WindowSource
  readonly recording: { readonly blocks: string; readonly channels: number }
  readonly offsets: readonly number[]
}

const fed = new Map<string, Fed>()
let frame = 0
/** Counts jumps of the play head: what the audio thread says of the time before one is out of date. */
let jumps = 0
let loop: { fromFrame: number; toFrame: number } | null = null
let filling = false
let again = false

self.onmessage = ({ data }: MessageEvent<ToFeeder | LifeMessage>) => {
  if (data.kind === 'life') return void showLife(data)
  switch (data.kind) {
    case 'port':
      data.port.onmessage = (event: MessageEvent<FromMixer>) => hear(event.data)
      return
    case 'feed':
      fed.clear()
      for (const { hash, window, blocks, offsets } of data.recordings) {
        const recording = { blocks, channels: window.channels }
        fed.set(hash, { source: new WindowSource(window), recording, offsets })
      }
      break
    case 'jump':
      frame = data.frame
      jumps = data.jumps
      break
    case 'loop':
      loop = data.loop
      break
    default:
      data satisfies never
  }
  void fill()
}

function hear(message: FromMixer): void {
  if (message.kind !== 'at' || message.jumps !== jumps) return
  frame = message.frame
  void fill()
}

/** Fills what is missing ahead of the play head, soonest first; a jump meanwhile begins anew. */
async function fill(): Promise<void> {
  again = true
  if (filling) return
  filling = true
  try {
    while (again) {
      again = false
      await fillOnce()
    }
  } finally {
    filling = false
  }
}

async function fillOnce(): Promise<void> {
  const spans = spansAhead(frame, loop)
  const wishes = [...fed.values()].map((each) => {
    const wanted = new Set<number>()
    for (const offset of each.offsets) {
      for (const place of placesIn(spans, offset, each.source.frames)) wanted.add(place)
    }
    return { each, wanted, missing: [...wanted].filter((p) => !each.source.has(p)) }
  })
  const rounds = Math.max(0, ...wishes.map((w) => w.missing.length))
  for (let round = 0; round < rounds && !again; round++) {
    await Promise.all(
      wishes.map(({ each, wanted, missing }) =>
        round < missing.length && !each.source.has(missing[round])
          ? load(each, missing[round], wanted)
          : undefined,
      ),
    )
  }
}

const SLOTS_PER_BLOCK = BLOCK_FRAMES / SLOT_FRAMES

/**
 * Loads the stored block that a place lies in, and fills all wanted slots from it. From the end of a block the next one
 * comes with it: with many tracks a second round would come too late.
 */
async function load({ source, recording }: Fed, place: number, wanted: ReadonlySet<number>) {
  const index = Math.floor(place / SLOTS_PER_BLOCK)
  const next = (index + 1) * SLOTS_PER_BLOCK
  const isLast = place === next - 1
  const last = isLast && wanted.has(next) && !source.has(next) ? index + 1 : index
  let blocks: Float32Array[][]
  try {
    blocks = await readBlocks(recording, index, last)
  } catch {
    // The page says which audio is missing; here it stays silent.
    return
  }
  for (const [b, samples] of blocks.entries()) {
    for (let s = 0; s < SLOTS_PER_BLOCK; s++) {
      const at = (index + b) * SLOTS_PER_BLOCK + s
      const from = s * SLOT_FRAMES
      if (!wanted.has(at) || source.has(at) || from >= samples[0].length) continue
      source.fill(
        at,
        samples.map((c) => c.subarray(from, from + SLOT_FRAMES)),
        wanted,
      )
    }
  }
}
