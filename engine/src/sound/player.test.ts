import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { placesIn, spansAhead } from './feed-plan'
import type { ToFeeder, ToMixer } from './messages'
import { Player } from './player'
import { SLOT_FRAMES, WindowSource } from './window-source'

vi.mock('../pffft-bytes', () => ({ pffftBytes: async () => new ArrayBuffer(0) }))
vi.mock('./mixer.worklet.ts?worker&url', () => ({ default: 'mixer' }))

/** Outputs that were opened, in their order, with what each was told. */
let outputs: { readonly told: ToMixer[]; onmessage: ((event: { data: unknown }) => void) | null }[]
/** What workers of the page were told. */
let workers: unknown[]
/** Whether the audio clock stands still: the machine is too late to go on with the sound. */
let isStuck: boolean

const of = (output: number, kind: ToMixer['kind']) =>
  outputs[output].told.filter((m) => m.kind === kind)
/** Plays; the clock of the device moves on meanwhile. */
async function begin(player: Player): Promise<void> {
  const begun = player.play()
  await vi.advanceTimersByTimeAsync(20)
  await begun
}
const say = (output: number, data: unknown) => outputs[output].onmessage?.({ data })

beforeEach(() => {
  vi.useFakeTimers()
  outputs = []
  workers = []
  isStuck = false
  const start = performance.now()
  let state: Int32Array
  vi.stubGlobal(
    'Worker',
    class {
      postMessage(message: unknown) {
        workers.push(message)
      }
      terminate() {}
    },
  )
  vi.stubGlobal(
    'AudioContext',
    class {
      baseLatency = 0.01
      state = 'running'
      audioWorklet = { addModule: async () => {} }
      destination = {}
      get currentTime() {
        return isStuck ? 0 : (performance.now() - start) / 1000
      }
      async resume() {}
      async close() {}
    },
  )
  vi.stubGlobal(
    'AudioWorkletNode',
    class {
      port
      constructor(
        _: unknown,
        __: string,
        options: { processorOptions: { state: SharedArrayBuffer } },
      ) {
        state = new Int32Array(options.processorOptions.state)
        const port = {
          told: [] as ToMixer[],
          onmessage: null,
          postMessage(message: ToMixer) {
            this.told.push(message)
            if (message.kind === 'play') state[1] = 1
            if (message.kind === 'pause') state[1] = 0
          },
        }
        outputs.push(port)
        this.port = port
      }
      connect() {}
    },
  )
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

/** Plays on a machine that comes too late until the next start opens the output anew. */
async function tooSlow(player: Player): Promise<void> {
  await begin(player)
  await vi.advanceTimersByTimeAsync(1000)
  isStuck = true
  await vi.advanceTimersByTimeAsync(3000)
  isStuck = false
  player.pause()
  expect(player.late.value.gaps).toBeGreaterThanOrEqual(3)
}

describe('an output that is opened anew, because the machine came too late', () => {
  it('goes on from where one jumped to just before', async () => {
    const player = new Player(48_000)
    await tooSlow(player)
    player.seek(96_000)
    expect(player.positionFrames).toBe(96_000)
    await begin(player)
    expect(outputs).toHaveLength(2)
    expect(of(1, 'jump').at(-1)).toMatchObject({ frame: 96_000 })
    await player.close()
  })

  it('keeps what was to be kept', async () => {
    const player = new Player(48_000)
    await tooSlow(player)
    const kept = player.record(0.1)
    await begin(player)
    expect(of(1, 'record')).toHaveLength(1)
    const [{ left }] = of(1, 'record') as Extract<ToMixer, { kind: 'record' }>[]
    left.fill(0.5)
    say(1, { kind: 'recorded' })
    expect((await kept).left.every((v) => v === 0.5)).toBe(true)
    await player.close()
  })

  it('resolves what was to be heard', async () => {
    const player = new Player(48_000)
    await tooSlow(player)
    const heard = player.hear([{ name: 'another', gain: 1 }])
    await begin(player)
    const [{ turn }] = of(1, 'hear') as Extract<ToMixer, { kind: 'hear' }>[]
    say(1, { kind: 'heard', turn })
    await expect(heard).resolves.toBeUndefined()
    await player.close()
  })
})

describe('a device that does not answer', () => {
  it('is told, and plays as soon as it answers', async () => {
    const player = new Player(48_000)
    isStuck = true
    const refused = expect(player.play()).rejects.toThrow(/^No sound output answers\. Connect/)
    await vi.advanceTimersByTimeAsync(7000)
    await refused
    expect(player.playing).toBe(false)
    isStuck = false
    await begin(player)
    expect(player.playing).toBe(true)
  })
})

describe('a long recording that several tracks play', () => {
  const frames = 400 * SLOT_FRAMES
  const access = {
    hash: 'long',
    blocks: 'b',
    channels: 1,
    frames,
    peaks: new Float32Array(),
    memory: null,
  }
  const recordings = new Map([['long', access]])
  const fed = () => workers.filter((m) => (m as ToFeeder).kind === 'feed') as ToFeeder[]

  it('has a window with room for all of them, however many join', async () => {
    const player = new Player(48_000)
    player.setAudio(recordings, new Map([['long', [0]]]))
    await begin(player)
    const sent = () => of(0, 'audio') as Extract<ToMixer, { kind: 'audio' }>[]
    expect(sent()).toHaveLength(1)
    const offsets = [0, -100 * SLOT_FRAMES - 1, -200 * SLOT_FRAMES - 1]
    player.setAudio(recordings, new Map([['long', offsets]]))
    const last = fed().at(-1)
    const window = last?.kind === 'feed' ? last.recordings[0].window : null
    // Mixer and feeder have the same one.
    expect(sent().at(-1)?.audio).toEqual({ kind: 'window', window })
    if (!window) throw new Error('There is no window to fill.')
    const source = new WindowSource(window)
    const wanted = new Set(offsets.flatMap((o) => placesIn(spansAhead(0, null), o, frames)))
    expect(wanted.size).toBeGreaterThan(15)
    for (const place of wanted) {
      expect(source.fill(place, [new Float32Array(SLOT_FRAMES)], wanted)).toBe(true)
    }
    // One that was taken away again leaves it as it is, and nothing to be sent anew.
    player.setAudio(recordings, new Map([['long', [0]]]))
    expect(sent()).toHaveLength(2)
    await player.close()
  })
})
