import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { ToMixer } from './messages'
import { Player } from './player'

vi.mock('../pffft-bytes', () => ({ pffftBytes: async () => new ArrayBuffer(0) }))
vi.mock('./mixer.worklet.ts?worker&url', () => ({ default: 'mixer' }))

/** Outputs that were opened, in their order, with what each was told. */
let outputs: { readonly told: ToMixer[]; onmessage: ((event: { data: unknown }) => void) | null }[]
/** Whether the audio clock stands still: the machine is too late to go on with the sound. */
let isStuck: boolean

const of = (output: number, kind: ToMixer['kind']) =>
  outputs[output].told.filter((m) => m.kind === kind)
const say = (output: number, data: unknown) => outputs[output].onmessage?.({ data })

beforeEach(() => {
  vi.useFakeTimers()
  outputs = []
  isStuck = false
  const start = performance.now()
  let state: Int32Array
  vi.stubGlobal(
    'Worker',
    class {
      postMessage() {}
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
  await player.play()
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
    await player.play()
    expect(outputs).toHaveLength(2)
    expect(of(1, 'jump').at(-1)).toMatchObject({ frame: 96_000 })
    await player.close()
  })

  it('keeps what was to be kept', async () => {
    const player = new Player(48_000)
    await tooSlow(player)
    const kept = player.record(0.1)
    await player.play()
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
    await player.play()
    const [{ turn }] = of(1, 'hear') as Extract<ToMixer, { kind: 'hear' }>[]
    say(1, { kind: 'heard', turn })
    await expect(heard).resolves.toBeUndefined()
    await player.close()
  })
})
