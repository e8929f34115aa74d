import type { Sound } from '@sober-prism/core/mix'
import { applyEdits, type Edit, emptySession } from '@sober-prism/core/session'
import { newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it, vi } from 'vitest'
import { type RenderChoice, renderSession } from './render-session'

const RATE = 48000
const hash = (i: number) => `${i}`.padStart(64, '0')
const NAMES = ['Lead voice', 'Guitar / left', 'Keys']

function session(...edits: readonly Edit[]) {
  const tracks = NAMES.map((name, i) => ({
    id: `t${i}`,
    name,
    role: 'other' as const,
    audio: { hash: hash(i), channels: 1 as const, frames: (i + 1) * RATE },
    timeStampSeconds: null,
  }))
  const empty = emptySession('s', 'Night: take 2', '2026-03-04T05:06:07.000Z', RATE)
  return applyEdits(empty, [
    { kind: 'add-tracks', tracks },
    { kind: 'add-group', id: 'g', name: 'Band', members: ['t1', 't2'] } as Edit,
    ...edits,
  ])
}
const ALL: RenderChoice = { mix: true, tracks: true, groups: true, bits: 24 }

/** What is rendered of a session by a pool that only takes note. */
async function rendered(
  choice: Partial<RenderChoice>,
  {
    of = session(),
    missing = [] as string[],
    run = vi.fn(async (task: string, ..._: unknown[]) => ({ blob: new Blob([task]) }) as unknown),
    onProgress = (_: string, __: number) => {},
    signal = new AbortController().signal,
  } = {},
) {
  const find = async (list: readonly { hash: string }[]) =>
    new Map(list.filter((a) => !missing.includes(a.hash)).map((a) => [a.hash, { of: a.hash }]))
  const none = { mix: false, tracks: false, groups: false, bits: 24 } as const
  const files = await renderSession(
    of,
    { ...none, ...choice },
    { run } as never,
    onProgress,
    signal,
    { find } as never,
  )
  const calls = run.mock.calls as unknown as [string, Record<string, never>][]
  return { files, calls }
}

describe('rendering a session', () => {
  it('names mix, groups and tracks after the session, their letters and names, in that order', async () => {
    const { files, calls } = await rendered(ALL)
    expect(files.map((f) => f.name)).toEqual([
      'Night_ take 2.wav',
      expect.stringMatching(/^Night_ take 2 \w+ Band\.wav$/),
      'Night_ take 2 A Lead voice.wav',
      'Night_ take 2 B Guitar _ left.wav',
      'Night_ take 2 C Keys.wav',
    ])
    expect(calls.map(([task]) => task)).toEqual(calls.map(() => 'render'))
    // Tracks come in their own channels.
    expect(calls.map(([, { sound }]) => (sound as Sound).channels)).toEqual([2, 2, 1, 1, 1])
  })

  it('renders only what is chosen', async () => {
    for (const [choice, count] of [
      [{ mix: true }, 1],
      [{ groups: true }, 1],
      [{ tracks: true }, 3],
    ] as const) {
      expect((await rendered(choice)).files).toHaveLength(count)
    }
  })

  it('makes every file as long as the session, and brings only the mix to its level', async () => {
    const normalise = { to: 'peak', dbfs: -1 }
    const of = { ...session(), normalise } as never
    const { calls } = await rendered(ALL, { of })
    for (const [, input] of calls) {
      expect(input.stretch).toEqual({ fromFrame: 0, toFrame: 3 * RATE })
      expect(input.bits).toBe(24)
    }
    expect(calls.slice(0, 2).map(([, input]) => input.normalise)).toEqual([normalise, null])
  })

  it('makes a track that listens to another in the mix of both', async () => {
    const key = { node: 't0', tap: 'after-fader', as: 'mono' } as const
    const treatment = { ...newTreatment('follow', 'f', 'fit'), key }
    const of = session({ kind: 'add-treatment', node: 't2', treatment, before: null })
    const { calls } = await rendered({ tracks: true }, { of })
    expect(calls.map(([, { sound }]) => (sound as Sound).of)).toEqual(['chain', 'chain', 'mix'])
  })

  it('refuses before it begins where audio is missing, by name', async () => {
    const run = vi.fn()
    await expect(rendered(ALL, { missing: [hash(1)], run })).rejects.toThrow(
      'The audio of Guitar / left is not in this browser. Import it again.',
    )
    expect(run).not.toHaveBeenCalled()
  })

  it('tells how far all is, and what is being made', async () => {
    const shown: [string, number][] = []
    const run = vi.fn(async (_: string, ...[, options]: unknown[]) => {
      const { onProgress } = options as { onProgress: (share: number) => void }
      await Promise.resolve()
      onProgress(0.5)
      return { blob: new Blob([]) } as unknown
    })
    await rendered(
      { tracks: true },
      { run, onProgress: (what, share) => shown.push([what, share]) },
    )
    const shares = shown.map(([, share]) => share)
    expect([...shares].sort((a, b) => a - b)).toEqual(shares)
    expect(shown[0]).toEqual(['Lead voice', 1 / 6])
    expect(shown.at(-1)).toEqual(['Finishing', 1])
  })

  it('fails as a whole where one file fails', async () => {
    let begun = 0
    const run = vi.fn(async (task: string, ..._: unknown[]) => {
      if (++begun === 2) throw new Error('The disk is full.')
      return { blob: new Blob([task]) } as unknown
    })
    await expect(rendered(ALL, { run })).rejects.toThrow('The disk is full.')
  })
})
